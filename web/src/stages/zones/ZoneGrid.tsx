import type { StageProps } from "../../shell/parts";
import { type Cell, cellWords, few, type Policy } from "./model";

type Props = StageProps & { policy: Policy; cell: Cell | null };

/** Zones against zones. Zones that hold bridged or inline ports stand apart: they meet only their own kind. */
export function ZoneGrid({ policy, cell, go, select }: Props) {
  const kinds = [...new Set(policy.zones.map((z) => z.kind))].sort((a, b) => KIND_ORDER.indexOf(a) - KIND_ORDER.indexOf(b));
  return (
    <>
      <div className="flex flex-wrap items-start gap-x-8 gap-y-2">
        {kinds.slice(0, 1).map((kind) => (
          <KindGrid key={kind} kind={kind} policy={policy} cell={cell} go={go} select={select} />
        ))}
        <div className="flex flex-wrap gap-x-8 gap-y-2 xl:flex-col">
          {kinds.slice(1).map((kind) => (
            <KindGrid key={kind} kind={kind} policy={policy} cell={cell} go={go} select={select} />
          ))}
        </div>
      </div>
      <div className="mt-2 min-h-6" aria-live="polite">
        {cell ? <About cell={cell} go={go} /> : <Key />}
      </div>
    </>
  );
}

const KIND_ORDER = ["routed", "bridged", "inline"];

function KindGrid({ kind, policy, cell, go, select }: Pick<StageProps, "go" | "select"> & { kind: string; policy: Policy; cell: Cell | null }) {
  const zones = policy.zones.filter((z) => z.kind === kind);
  const find = (a: string, b: string) => policy.cells.find((c) => c.source === a && c.target === b);
  return (
    <table className="border-separate border-spacing-0" aria-label={`${kind} zones`}>
      <thead>
        <tr>
          <th className="eyebrow pr-2 pb-1 text-left align-bottom">{kind}</th>
          {zones.map((z) => (
            <th key={z.name} scope="col" className="h-20 w-9 align-bottom">
              <span className="mx-auto block rotate-180 pt-1 text-[12px] leading-none font-medium [writing-mode:vertical-rl]">{z.name}</span>
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {zones.map((a) => (
          <tr key={a.name}>
            <th scope="row" className="max-w-56 pr-2 text-left font-normal">
              <button type="button" className="link-quiet font-medium" onClick={() => select(a.pointer)} title={a.note ?? undefined}>
                {a.name}
              </button>{" "}
              <span
                className={`inline-block max-w-32 truncate align-bottom text-[11px] ${a.segments.length ? "muted" : "text-error"}`}
                title={[...a.segments, ...a.interfaces].join(", ")}
              >
                {a.segments.length ? few(a.segments, 2) : a.interfaces.length ? "" : "holds nothing"}
              </span>
            </th>
            {zones.map((b) => {
              const one = find(a.name, b.name);
              const lit = cell?.source === a.name && cell.target === b.name;
              return (
                <td key={b.name} className="p-0">
                  {one && (
                    <button
                      type="button"
                      data-cell={`${a.name}>${b.name}`}
                      data-opens={one.opens}
                      aria-pressed={lit}
                      aria-label={`${a.name} to ${b.name}: ${one.opens}${one.services ? `, ${one.services}` : ""}; ${one.rules.length} rules`}
                      title={`${a.name} to ${b.name}: ${one.services || "nothing"}`}
                      className={`hair hover:bg-base-200 relative -mt-px -ml-px flex h-[25px] w-[37px] cursor-pointer items-center justify-center gap-0.5 border ${lit ? "bg-accent/25 z-[1] outline-2 outline-accent" : ""}`}
                      onClick={() => go({ zones: lit ? null : `${a.name}>${b.name}`, step: null })}
                    >
                      <OpensSign opens={one.opens} />
                      {one.rules.length > 0 && <span className="font-mono text-[10.500px]">{one.rules.length}</span>}
                    </button>
                  )}
                </td>
              );
            })}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function About({ cell, go }: { cell: Cell; go: StageProps["go"] }) {
  return (
    <p data-testid="zone-pair" className="bg-accent/15 flex flex-wrap items-baseline gap-x-3 rounded px-3 py-1">
      <strong className="font-semibold">
        {cell.source} → {cell.target}
      </strong>
      {cell.services && <span className="font-mono text-[12px]">{cell.services}</span>}
      <span>{cellWords(cell)}</span>
      <button type="button" className="link-quiet ml-auto" onClick={() => go({ zones: null })}>
        All rules again
      </button>
    </p>
  );
}

function Key() {
  return (
    <ul className="muted flex flex-wrap gap-x-4 gap-y-1 py-1 text-[12px]">
      {[
        ["all", "everything may pass"],
        ["some", "some may"],
        ["none", "nothing may"],
      ].map(([opens, words]) => (
        <li key={opens} className="flex items-center gap-1.5">
          <OpensSign opens={opens ?? ""} /> {words}
        </li>
      ))}
      <li>The number: how many rules speak of the pair. Click a cell to see only those.</li>
    </ul>
  );
}

/** A gate seen from above: wide open, ajar, shut. */
export function OpensSign({ opens }: { opens: string }) {
  return (
    <svg width="16" height="14" viewBox="0 0 16 14" fill="none" aria-hidden="true" strokeLinecap="round">
      {opens === "all" && <path d="M2.500 2v10M13.500 2v10M5 7h6M9 4.800 11.200 7 9 9.200" className="stroke-primary" strokeWidth="1.700" />}
      {opens === "some" && <path d="M2.500 7 8.500 2.800M2.500 7h3M13.500 7h-2" className="stroke-primary" strokeWidth="1.700" />}
      {opens === "none" && <path d="M3.500 7h9" className="stroke-base-content opacity-35" strokeWidth="1.500" />}
    </svg>
  );
}
