import { useProved } from "../../api/sheets";
import { VerdictSign } from "../../theme/signs";
import { INSIDE_WORDS, type Matrix } from "./model";

type Cell = NonNullable<Matrix["cells"][number][number]>;

/** Only the signs that are on the matrix now: what is open, closed, apart, and where it breaks. */
export function Legend({ matrix, design }: { matrix: Matrix; design: string }) {
  const run = useProved(design).data;
  const seen = new Map<string, Pick<Cell, "tone" | "verdict" | "layer"> & { words: string }>();
  for (const cell of matrix.cells.flat()) {
    if (!cell) continue;
    const tone = cell.tone;
    const layer = cell.layer ?? null;
    const words =
      cell.verdict === "all"
        ? "all"
        : cell.verdict === "some"
          ? "some"
          : tone === "closed"
            ? `closed by ${layer}`
            : tone === "apart"
              ? "nothing leads there"
              : `broken: ${layer}`;
    seen.set(words, { tone, verdict: cell.verdict, layer: tone === "broken" || tone === "closed" ? layer : null, words });
  }
  const order = ["open", "closed", "apart", "broken"];
  const entries = [...seen.values()].sort((a, b) => order.indexOf(a.tone) - order.indexOf(b.tone) || a.words.localeCompare(b.words));
  return (
    <ul className="muted flex w-0 min-w-full flex-wrap gap-x-4 gap-y-0.5 pt-1 text-[12px]" aria-label="Signs">
      {entries.map((e) => (
        <li key={e.words} className="flex items-center gap-1">
          <VerdictSign {...e} size={16} /> {e.words}
        </li>
      ))}
      {(["none", "some"] as const)
        .filter((inside) => matrix.segments.some((s) => s.inside === inside))
        .map((inside) => (
          <li key={inside} className="flex items-center gap-1">
            <span className="text-secondary w-4 text-center leading-none font-bold">{inside === "none" ? "···" : "··"}</span> {INSIDE_WORDS[inside]}
          </li>
        ))}
      {run?.number != null && (
        <li className="flex items-center gap-1" data-testid="proved">
          <span className="bg-primary h-[2px] w-4" /> {run.proved.length} of {run.pairs} pairs proved by test sheet {run.number}
          {run.wrong.length > 0 && <span className="text-error font-medium">, {run.wrong.length} seen otherwise</span>}
        </li>
      )}
      {matrix.cells.flat().some((c) => c?.sometimes) && (
        <li className="flex items-center gap-1">
          <span className="border-accent h-[7px] w-[7px] rounded-full border-2" /> more at some time than at any time
        </li>
      )}
    </ul>
  );
}
