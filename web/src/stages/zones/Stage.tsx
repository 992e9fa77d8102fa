import { Search } from "lucide-react";
import { useZones } from "../../api/queries";
import { Empty, Working } from "../../parts/Empty";
import { Tabs } from "../../parts/Tabs";
import type { StageProps } from "../../shell/parts";
import { MakeButton } from "../../shell/thing/MakeButton";
import { AnswersGrid } from "./AnswersGrid";
import { chosenCell, chosenPolicy, type Policy, shownNat, shownRules, stepOf, STEPS, type Step } from "./model";
import { NatList } from "./NatList";
import { RuleList } from "./RuleList";
import { ZoneGrid } from "./ZoneGrid";

/** Who may open to whom: zones against zones, and under it what the box does, in the order it does it. */
export function ZonesStage(props: StageProps) {
  const { design, place, go } = props;
  const zones = useZones(design, place.look);
  const policies = zones.data?.firewalls ?? [];
  const policy = chosenPolicy(policies, place.box);
  if (zones.data && !policy)
    return (
      <Empty title="No firewall yet" hint="Zones, rules and translations belong to a firewall. Put one into the cabling, and they stand here.">
        <button type="button" className="btn btn-primary btn-sm" onClick={() => go({ stage: "cabling" })}>
          To the boxes
        </button>
      </Empty>
    );
  if (!policy) return <Working />;
  const cell = chosenCell(policy, place.zones);
  const step = stepOf(place.step);
  const grid = zones.data?.answers.find((a) => a.device === policy.name);
  return (
    <div className="flex h-full flex-col">
      <header className="flex flex-wrap items-center gap-x-4 gap-y-1 px-4 pt-3 pb-1">
        <h1 className="text-lg font-semibold">Zones</h1>
        {policies.length > 1 && <Tabs label="Firewall" names={policies.map((p) => p.name)} chosen={policy.name} onChoose={(box) => go({ box })} />}
        <MakeButton {...props} kind="zone" at={policy.pointer} owner="firewall" label="zone" />
        <MakeButton {...props} kind="answers" at={policy.pointer} owner="firewall" label="answers" />
        <p className="muted hidden xl:block">Each cell: how much the zone at its left may open to the zone above, and by how many rules.</p>
      </header>
      <div className="relative min-h-0 flex-1 overflow-y-auto px-4 pb-4" data-scrolls>
        <ZoneGrid {...props} policy={policy} cell={cell} />
        <nav className="hair bg-base-100 sticky top-0 z-10 mt-3 flex flex-wrap items-center gap-x-1 border-b py-1.5" aria-label="What the box does, in order">
          {STEPS.map((s, k) => (
            <span key={s} className="flex items-center gap-1">
              {k > 0 && (
                <span className={k < 3 ? "muted px-0.5" : "px-2"} aria-hidden="true">
                  {k < 3 ? "→" : ""}
                </span>
              )}
              <button
                type="button"
                aria-pressed={s === step}
                className={`cursor-pointer rounded px-2 py-0.5 ${s === step ? "bg-neutral text-neutral-content font-medium" : "hover:bg-base-200"}`}
                onClick={() => go({ step: s === "rules" ? null : s })}
              >
                {k < 3 && <span className="mr-1 font-mono text-[11px] opacity-70">{k + 1}</span>}
                {stepWords(s)} <span className="font-mono text-[11px] opacity-70">{count(policy, s)}</span>
              </button>
            </span>
          ))}
          {step === "rules" && (
            <label className="hair ml-auto flex h-7 items-center gap-1.5 rounded border px-2">
              <Search size={13} className="muted" aria-hidden="true" />
              <input
                key={place.look}
                className="w-44 bg-transparent font-mono text-[12px] outline-none"
                aria-label="Filter rules by address, service or name"
                placeholder="address, service, name"
                defaultValue={place.look}
                onBlur={(e) => go({ look: e.target.value.trim() })}
                onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
              />
            </label>
          )}
        </nav>
        {step === "rules" && <RuleList {...props} policy={policy} cell={cell} rules={shownRules(policy, cell)} />}
        {(step === "destinations" || step === "sources") && <NatList {...props} policy={policy} step={step} entries={shownNat(policy, step)} />}
        {step === "answers" && grid && <AnswersGrid {...props} grid={grid} />}
        {step === "answers" && zones.data?.answers.filter((a) => a.open).map((a) => <AnswersGrid key={a.device} {...props} grid={a} />)}
      </div>
    </div>
  );
}

function stepWords(step: Step): string {
  return { destinations: "Destinations change", rules: "Rules", sources: "Sources change", answers: "What the box itself answers" }[step];
}

function count(policy: Policy, step: Step): string {
  if (step === "rules") return String(policy.rules.length);
  return step === "answers" ? "" : String(shownNat(policy, step).length);
}
