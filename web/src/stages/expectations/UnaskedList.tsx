import { useState } from "react";
import type { Schemas } from "../../api/client";
import type { StageProps } from "../../shell/parts";
import { type Expectation, taken } from "./model";

type Props = StageProps & { unasked: Schemas["Unasked"]; known: Expectation[] };

/** What passes though nothing asks for it, one line a source, folded: questions to answer with an expectation. */
export function UnaskedList({ unasked, known, change, select }: Props) {
  const [open, setOpen] = useState(false);
  const count = unasked.open.length + unasked.more;
  if (count === 0 && unasked.left_out.length === 0) return null;
  const say = (value: Record<string, unknown>) => change.mutate({ kind: "patch", patch: taken([value], known) });
  const sources = [...new Set(unasked.open.map((p) => p.source))];
  return (
    <details className="mt-5" data-testid="unasked" onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary className="cursor-pointer">
        <span className="eyebrow">Open, but nobody asked</span>{" "}
        <span className="muted">
          {count} {count === 1 ? "pair" : "pairs"}
          {unasked.left_out.length > 0 && ` · ${unasked.left_out.length} left out of a way out`}
        </span>
      </summary>
      <p className="muted mt-1 max-w-[46rem]">
        No expectation speaks of these, and no VLAN&rsquo;s purpose. Say of each whether it is meant; every later edit is then held against it.
      </p>
      <ul className="mt-1" aria-label="Open, but nobody asked">
        {(open ? sources : []).map((source) => (
          <li key={source} className="hair grid grid-cols-[9rem_1fr] gap-x-2 border-b py-1">
            <span className="truncate font-medium" title={source}>
              {source}
            </span>
            <ul>
              {unasked.open
                .filter((p) => p.source === source)
                .map((p) => (
                  <li key={p.target} className="flex items-baseline gap-2">
                    <span className="w-36 shrink-0 truncate" title={p.target}>
                      → {p.target}
                    </span>
                    <span className="muted min-w-0 flex-1 truncate font-mono text-[12px]" title={p.services}>
                      {p.services}
                    </span>
                    {p.expectation && (
                      <button
                        type="button"
                        className="link-quiet text-[12px]"
                        aria-label={`${source} to ${p.target} is meant`}
                        onClick={() => say(p.expectation ?? {})}
                      >
                        meant
                      </button>
                    )}
                    <button
                      type="button"
                      className="link-quiet text-[12px]"
                      aria-label={`${source} to ${p.target} must be closed`}
                      onClick={() => say(p.closed)}
                    >
                      must be closed
                    </button>
                  </li>
                ))}
            </ul>
          </li>
        ))}
        {(open ? unasked.left_out : []).map((o) => (
          <li key={`${o.zone} ${o.towards} ${o.subnet}`} className="hair border-b py-1">
            <button type="button" className="link-quiet text-left" onClick={() => select(o.pointer)}>
              {o.device}: rules let others of {o.zone} out to {o.towards}, and leave out {o.segment} <span className="font-mono text-[12px]">({o.subnet})</span>
            </button>
          </li>
        ))}
      </ul>
      {unasked.more > 0 && <p className="muted">And {unasked.more} more pairs.</p>}
    </details>
  );
}
