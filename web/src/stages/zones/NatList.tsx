import { ListPlus } from "lucide-react";
import type { StageProps } from "../../shell/parts";
import { addNat, few, type Nat, type Placed, type Policy, type Step } from "./model";
import { Ordered } from "./Ordered";

type Props = StageProps & { policy: Policy; step: Step; entries: Placed<Nat>[] };

const ABOUT: Partial<Record<Step, string>> = {
  destinations: "Before the rules, the first match on source, destination, service and zone as they come in. Rules see what it makes of them.",
  sources: "After the rules let a packet pass, the first match changes its source. Replies are changed back by themselves.",
};

/** One step of translation, in the order the box tries the entries. */
export function NatList(props: Props) {
  const { policy, step, entries, select, change } = props;
  return (
    <section aria-label="Translations">
      <p className="muted py-2">{ABOUT[step]}</p>
      <Ordered {...props} list={`${policy.pointer}/nat`} label="Translations in order" entries={entries} nameOf={(n) => n.name}>
        {({ entry }) => (
          <div
            className={`grid cursor-pointer grid-cols-[minmax(7rem,11rem)_minmax(5rem,9rem)_minmax(6rem,1fr)_minmax(8rem,14rem)] gap-x-3 py-1.5 ${entry.enabled ? "" : "opacity-55"}`}
            onClick={() => select(entry.pointer)}
          >
            <div className="min-w-0">
              <button type="button" className="link-quiet max-w-full truncate font-medium" onClick={() => select(entry.pointer)}>
                {entry.name}
              </button>
              {(entry.note || !entry.enabled) && <p className="muted truncate text-[11px]">{entry.enabled ? entry.note : "switched off"}</p>}
            </div>
            <div className="min-w-0">
              <p className="truncate" title={entry.from_zones.join(", ")}>
                {few(entry.from_zones)}
              </p>
              {step === "sources" && (
                <p className="truncate">
                  <span className="muted">→</span> {few(entry.to_zones)}
                </p>
              )}
            </div>
            <div className="min-w-0 font-mono text-[12px]">
              <p className="truncate" title={entry.sources.join(", ")}>
                {few(entry.sources, 2)}
              </p>
              <p className="truncate" title={entry.destinations.join(", ")}>
                <span className="muted">→</span> {few(entry.destinations, 2)}{" "}
                <span className="muted">{entry.services.join() === "any" ? "" : few(entry.services)}</span>
              </p>
            </div>
            <p>{entry.changes}</p>
          </div>
        )}
      </Ordered>
      {entries.length === 0 && <p className="muted">Nothing is translated at this step.</p>}
      <button
        type="button"
        className="btn btn-outline btn-xs mt-2"
        onClick={() => {
          const made = addNat(policy, step);
          change.mutate({ kind: "patch", patch: made.patch });
          select(made.pointer);
        }}
      >
        <ListPlus size={12} /> Add a translation
      </button>
    </section>
  );
}
