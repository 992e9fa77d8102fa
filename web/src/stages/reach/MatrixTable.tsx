import { type KeyboardEvent, useRef, useState } from "react";
import type { StageProps } from "../../shell/parts";
import { VerdictSign } from "../../theme/signs";
import { type Cell, moveBy } from "../../parts/cells";
import { useProved } from "../../api/sheets";
import { INSIDE_WORDS, PROVED_WORDS, cellWords, type Matrix, provedOf, startsZone, zoneRuns } from "./model";

/** Segments against segments, grouped by zone; rows open, columns answer. */
export function MatrixTable({ matrix, design, place, go, select, shownPair }: StageProps & { matrix: Matrix; shownPair: { from: string; to: string } | null }) {
  const names = matrix.segments.map((s) => s.name);
  const proved = provedOf(useProved(design).data);
  const table = useRef<HTMLTableElement>(null);
  const [hover, setHover] = useState<[number, number] | null>(null);
  const picked: [number, number] = shownPair ? [names.indexOf(shownPair.from), names.indexOf(shownPair.to)] : [-1, -1];
  const stop: [number, number] = picked[0] >= 0 && picked[1] >= 0 ? picked : [0, 1];
  const cross = hover ?? picked;
  const pick = (a: number, b: number, passing = false) => {
    const [from, to] = [names[a], names[b]];
    if (from && to && a !== b) go({ pair: { from, to }, passing: false, packet: null }, passing);
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const on = (from: Cell) => moveBy(from, event.key, names.length, names.length, event.ctrlKey);
    const next = on({ row: stop[0], column: stop[1] });
    if (next) {
      event.preventDefault();
      const { row: a, column: b } = next.row === next.column ? (on(next) ?? next) : next;
      if (a === b) return;
      pick(a, b, shownPair !== null);
      table.current?.querySelector<HTMLElement>(`[data-pair="${a} ${b}"]`)?.focus();
    }
    if (event.key === "f") go({ passing: !place.passing });
    if (event.key === "r" && shownPair) pick(picked[1], picked[0]);
  };
  return (
    <table ref={table} role="grid" aria-label="Reach" className="border-separate border-spacing-0" onKeyDown={onKeyDown} onMouseLeave={() => setHover(null)}>
      <thead>
        <tr>
          <th className="text-left align-bottom" colSpan={2}>
            <span className="muted text-[11px] font-normal">rows open ↓ columns answer →</span>
          </th>
          {matrix.segments.map((s, k) => (
            <th
              key={s.name}
              scope="col"
              className={`p-0 align-bottom font-normal ${startsZone(matrix, k) ? "hair border-l" : ""} ${cross[1] === k ? "bg-base-200" : ""}`}
            >
              <button
                type="button"
                className="flex h-full min-h-16 w-[26px] cursor-pointer items-end justify-center pb-1"
                title={`${s.name} · ${s.subnets.join(", ") || "no subnet"} · zone ${s.zone ?? "none"}`}
                onClick={() => select(s.pointer)}
              >
                <span className="max-h-[6.500rem] truncate [writing-mode:vertical-rl] rotate-180 leading-none">{s.name}</span>
              </button>
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {matrix.segments.map((s, a) => (
          <tr key={s.name}>
            <ZoneHead matrix={matrix} index={a} />
            <th
              scope="row"
              className={`max-w-36 p-0 pr-2 text-left font-normal ${startsZone(matrix, a) ? "hair border-t" : ""} ${cross[0] === a ? "bg-base-200" : ""}`}
            >
              <button
                type="button"
                className="link-quiet block max-w-full truncate"
                title={s.subnets.join(", ") || "no subnet"}
                onClick={() => select(s.pointer)}
              >
                {s.name}
              </button>
            </th>
            {matrix.cells[a]?.map((cell, b) => (
              <td
                key={names[b]}
                role="gridcell"
                aria-selected={picked[0] === a && picked[1] === b}
                className={`hair p-0 ${startsZone(matrix, b) ? "border-l" : ""} ${startsZone(matrix, a) ? "border-t" : ""} ${cross[0] === a || cross[1] === b ? "bg-base-200" : ""}`}
              >
                {cell ? (
                  <button
                    type="button"
                    data-pair={`${a} ${b}`}
                    data-verdict={cell.verdict}
                    data-layer={cell.layer ?? ""}
                    tabIndex={stop[0] === a && stop[1] === b ? 0 : -1}
                    aria-label={cellWords(s.name, names[b] ?? "", cell)}
                    data-proved={proved.get(`${s.name}>${names[b]}`)}
                    title={cellWords(s.name, names[b] ?? "", cell) + PROVED_WORDS[proved.get(`${s.name}>${names[b]}`) ?? "open"]}
                    onClick={() => pick(a, b)}
                    onMouseEnter={() => setHover([a, b])}
                    className={`flex h-[22px] w-[26px] cursor-pointer items-center justify-center ${picked[0] === a && picked[1] === b ? "bg-base-100 shadow-[inset_0_0_0_2px_var(--color-accent)]" : ""}`}
                  >
                    <span className="relative flex">
                      <VerdictSign tone={cell.tone} verdict={cell.verdict} layer={cell.layer ?? null} />
                      {proved.has(`${s.name}>${names[b]}`) && (
                        <span
                          className={`absolute -bottom-[4px] left-0 h-[2px] w-full ${proved.get(`${s.name}>${names[b]}`) === "wrong" ? "bg-error" : "bg-primary"}`}
                        />
                      )}
                      {cell.sometimes && <span className="border-accent bg-base-100 absolute -top-[3px] -right-[3px] h-[7px] w-[7px] rounded-full border-2" />}
                    </span>
                  </button>
                ) : (
                  <Itself segment={s} />
                )}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** The diagonal: nothing where hosts of a segment reach each other, and what keeps them apart where something does. */
function Itself({ segment }: { segment: Matrix["segments"][number] }) {
  const words = INSIDE_WORDS[segment.inside];
  return (
    <div className="flex h-[22px] w-[26px] items-center justify-center" title={words && `${segment.name}: ${words}`} data-inside={segment.inside}>
      {words ? (
        <span className="flex gap-[3px] opacity-70" aria-label={words} role="img">
          {[0, 1, 2].slice(segment.inside === "some" ? 1 : 0).map((k) => (
            <span key={k} className="bg-secondary h-[3px] w-[3px] rounded-full" />
          ))}
        </span>
      ) : (
        <span className="bg-base-content h-px w-2 rotate-45 opacity-25" />
      )}
    </div>
  );
}

function ZoneHead({ matrix, index }: { matrix: Matrix; index: number }) {
  if (index > 0 && !startsZone(matrix, index)) return null;
  let at = 0;
  for (const run of zoneRuns(matrix)) {
    if (at === index)
      return (
        <th rowSpan={run.count} scope="rowgroup" className={`eyebrow pr-2 text-left align-top !normal-case ${index > 0 ? "hair border-t" : ""}`}>
          <span className="block max-w-20 truncate leading-[22px]">{run.zone ?? "no zone"}</span>
        </th>
      );
    at += run.count;
  }
  return null;
}
