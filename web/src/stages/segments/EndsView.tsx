import { memo } from "react";
import type { Patch, Schemas } from "../../api/client";
import { Empty } from "../../parts/Empty";
import { type Measure, useLong } from "../../parts/useLong";
import { useSteady } from "../../parts/useSteady";
import type { StageProps } from "../../shell/parts";

type Line = Schemas["CableEnds"];
type Props = Pick<StageProps, "select" | "change"> & { ends: Line[] };

/** How high a cable is until it is measured. */
const HEIGHT = 62;

/** Every cable with its two ends side by side: what each carries, what differs, and one click that makes one end like the other. */
export function EndsView({ ends, select, change }: Props) {
  const { frame, drawn, above, below, measure } = useLong<HTMLUListElement>({ count: ends.length, heightOf: () => HEIGHT, lit: -1 });
  const onMake = useSteady((patch: Patch) => change.mutate({ kind: "patch", patch }));
  if (ends.length === 0) return <Empty title="No cable carries VLANs yet" hint="Cable two switches, or a switch and the firewall, on the Cabling stage." />;
  return (
    <div className="relative min-h-0 flex-1 overflow-auto px-4 pb-4" data-scrolls>
      <ul ref={frame} aria-label="Both ends of each cable" style={{ paddingTop: above, paddingBottom: below }}>
        {drawn.flatMap((k) => {
          const line = ends[k];
          if (!line) return [];
          const name = line.ends.map((e) => e.label).join();
          return [<Cable key={name} line={line} at={k} measure={measure} busy={change.isPending} select={select} onMake={onMake} />];
        })}
      </ul>
    </div>
  );
}

interface CableProps {
  line: Line;
  at: number;
  measure: Measure;
  busy: boolean;
  select: StageProps["select"];
  onMake: (patch: Patch) => void;
}

const Cable = memo(function Cable({ line, at, measure, busy, select, onMake }: CableProps) {
  return (
    <li
      ref={measure}
      data-index={at}
      className={`hair grid grid-cols-[11rem_minmax(0,1fr)_15rem] gap-4 border-t py-2 ${line.differences.length > 0 ? "border-l-error border-l-[3px] pl-2" : "pl-[11px]"}`}
    >
      <div className="flex flex-col gap-0.5">
        {line.ends.map((end) => (
          <button key={end.label} type="button" className="link-quiet self-start font-mono text-[12px]" title={end.short} onClick={() => select(end.pointer)}>
            {end.label}
          </button>
        ))}
        {!line.up && <span className="text-error text-[12px]">down: {line.reason}</span>}
      </div>
      <Ladder line={line} />
      <div>
        {line.differences.length === 0 && <p className="muted">alike</p>}
        {line.differences.map((said) => (
          <p key={said} className="mb-0.5">
            {said}
          </p>
        ))}
        {line.ends.map(
          (end) =>
            end.like_other && (
              <button key={end.label} type="button" className="btn btn-outline btn-xs mt-1 mr-1" disabled={busy} onClick={() => onMake(end.like_other ?? [])}>
                Make {end.label} like the other end
              </button>
            ),
        )}
      </div>
    </li>
  );
});

const LIMIT = 24;

/** The forms of frames on the wire as rungs, one mark an end; where the ends differ the rung stands out. */
function Ladder({ line }: { line: Line }) {
  const rungs = [...line.carried].sort((a, b) => Number(a.same) - Number(b.same) || a.form - b.form).slice(0, LIMIT);
  return (
    <div className="flex flex-wrap items-start gap-x-0.5 gap-y-1">
      {rungs.map((c) => (
        <table key={c.form} className={`w-11 rounded text-center font-mono text-[11px] ${c.same ? "" : "bg-error/15 font-semibold"}`}>
          <caption className="text-[11px]">{c.form === 0 ? "untag." : c.form}</caption>
          <tbody>
            {line.ends.map((end, k) => (
              <tr key={end.label}>
                <td title={`${end.label}: ${c.here[k] || "does not carry it"}`}>
                  <Mark said={c.here[k] ?? ""} form={c.form} />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      ))}
      {line.carried.length > LIMIT && <span className="muted self-center pl-2">and {line.carried.length - LIMIT} more</span>}
    </div>
  );
}

/** One end of a rung: a bar where frames pass both ways, half a bar where one way only, a gap where none; a VLAN of another number is written. */
function Mark({ said, form }: { said: string; form: number }) {
  const [way = "", vlan = ""] = said.split(" ");
  const other = vlan !== "" && Number(vlan) !== form;
  if (way === "")
    return (
      <span className="text-error" aria-label="not carried">
        –
      </span>
    );
  return (
    <span className="inline-flex h-4 items-center gap-1" aria-label={said}>
      {other ? (
        vlan
      ) : (
        <svg width="20" height="8" aria-hidden="true">
          <rect
            x={way === "takes" ? 10 : 0}
            y="1"
            width={way === "both" ? 20 : 10}
            height="6"
            rx="1.500"
            className={way === "both" ? "fill-primary" : "fill-error"}
          />
        </svg>
      )}
    </span>
  );
}
