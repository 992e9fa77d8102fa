import { Clock, Copy, ListPlus, Power } from "lucide-react";
import type { StageProps } from "../../shell/parts";
import { addRule, type Cell, copyRule, decidesWords, few, type Placed, type Policy, type Rule } from "./model";
import { Ordered } from "./Ordered";

type Props = StageProps & { policy: Policy; cell: Cell | null; rules: Placed<Rule>[] };

/** The rules in order; the first that matches decides. */
export function RuleList(props: Props) {
  const { policy, cell, rules, place, select, change } = props;
  const make = (made: ReturnType<typeof copyRule>) => {
    if (!made) return;
    change.mutate({ kind: "patch", patch: made.patch });
    select(made.pointer);
  };
  const hidden = policy.rules.length - rules.length;
  return (
    <section aria-label="Rules">
      {policy.rules.length === 0 && (
        <p className="muted py-3">
          No rules: between zones everything {policy.between_zones === "permit" ? "passes" : "is dropped"}, inside one it{" "}
          {policy.same_zone === "permit" ? "passes" : "is dropped"}.
        </p>
      )}
      <Ordered {...props} list={`${policy.pointer}/rules`} label="Rules in order" entries={rules} nameOf={(r) => r.name}>
        {({ index, entry }) => (
          <div className={entry.enabled ? "" : "opacity-55"} onClick={() => select(entry.pointer)}>
            <div className="grid cursor-pointer grid-cols-[minmax(7rem,11rem)_minmax(5rem,8rem)_minmax(6rem,1fr)_minmax(4.500rem,7.500rem)_5rem] gap-x-3 py-1.5">
              <div className="min-w-0">
                <button
                  type="button"
                  className="link-quiet max-w-full truncate font-medium"
                  title={entry.note ?? entry.name}
                  onClick={() => select(entry.pointer)}
                >
                  {entry.name}
                </button>
                <Decides rule={entry} />
              </div>
              <div className="min-w-0">
                <p className="truncate" title={entry.from_zones.join(", ")}>
                  {few(entry.from_zones)}
                </p>
                <p className="truncate" title={entry.to_zones.join(", ")}>
                  <span className="muted">→</span> {few(entry.to_zones)}
                </p>
              </div>
              <div className="min-w-0 font-mono text-[12px]">
                <p className="truncate" title={entry.sources.join(", ")}>
                  {few(entry.sources, 2)}
                </p>
                <p className="truncate" title={entry.destinations.join(", ")}>
                  <span className="muted">→</span> {few(entry.destinations, 2)}
                </p>
              </div>
              <div className="min-w-0">
                <p className="font-mono text-[12px] break-words" title={entry.services.join(", ")}>
                  {few(entry.services, 4)}
                </p>
                {entry.when && (
                  <p
                    className="text-accent flex items-center gap-1 text-[12px]"
                    title={[entry.when.start, entry.when.duration, entry.when.repeat].filter(Boolean).join(", ")}
                  >
                    <Clock size={11} aria-hidden="true" /> by the hour
                  </p>
                )}
              </div>
              <ActionSign action={entry.action} log={entry.log} />
            </div>
            {place.at === entry.pointer && (
              <p className="flex flex-wrap gap-2 pb-2" onClick={(e) => e.stopPropagation()}>
                <Tool label="Add above" onClick={() => make(addRule(policy, index, cell))}>
                  <ListPlus size={12} className="-scale-y-100" />
                </Tool>
                <Tool label="Add below" onClick={() => make(addRule(policy, index + 1, cell))}>
                  <ListPlus size={12} />
                </Tool>
                <Tool label="Copy" onClick={() => make(copyRule(policy, index))}>
                  <Copy size={12} />
                </Tool>
                <Tool
                  label={entry.enabled ? "Switch off" : "Switch on"}
                  onClick={() => change.mutate({ kind: "patch", patch: [{ op: "add", path: `${entry.pointer}/enabled`, value: !entry.enabled }] })}
                >
                  <Power size={12} />
                </Tool>
              </p>
            )}
          </div>
        )}
      </Ordered>
      <p className="mt-2 flex items-center gap-3">
        <button type="button" className="btn btn-outline btn-xs" onClick={() => make(addRule(policy, policy.rules.length, cell))}>
          <ListPlus size={12} /> Add a rule at the end
        </button>
        {hidden > 0 && <span className="muted">{hidden} more do not speak of this.</span>}
      </p>
    </section>
  );
}

function Tool({ label, onClick, children }: { label: string; onClick: () => void; children: React.ReactNode }) {
  return (
    <button type="button" className="btn btn-outline btn-xs" onClick={onClick}>
      {children} {label}
    </button>
  );
}

/** What a rule really decides after those above it; quiet where it does what it says. */
function Decides({ rule }: { rule: Rule }) {
  const words = decidesWords(rule);
  if (words !== null) return <p className={`text-[11px] ${rule.decides === "nothing" ? "text-error" : ""}`}>{words}</p>;
  return rule.note ? (
    <p className="muted truncate text-[11px]" title={rule.note}>
      {rule.note}
    </p>
  ) : null;
}

/** permit = an arrow goes on, drop = it ends at a bar, refuse = it is sent back. */
function ActionSign({ action, log }: { action: string; log: boolean }) {
  return (
    <p className="flex items-start gap-1.5" title={log ? `${action}, and logged` : action}>
      <svg width="16" height="14" viewBox="0 0 16 14" fill="none" aria-hidden="true" strokeLinecap="round" strokeLinejoin="round" className="mt-0.5 shrink-0">
        {action === "permit" && <path d="M2 7h11M10 4l3 3-3 3" className="stroke-primary" strokeWidth="1.700" />}
        {action === "drop" && <path d="M2 7h7M12.500 2.500v9" className="stroke-secondary" strokeWidth="1.700" />}
        {action === "refuse" && <path d="M2 4h8a3 3 0 0 1 0 6H4.500M6.500 8l-2 2 2 2" className="stroke-secondary" strokeWidth="1.700" />}
      </svg>
      <span>
        {action}
        {log && <span className="muted block text-[11px]">logged</span>}
      </span>
    </p>
  );
}
