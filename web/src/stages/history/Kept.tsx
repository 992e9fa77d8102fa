import { Printer, Smartphone } from "lucide-react";
import type { Explanation, SheetView } from "../../api/sheets";
import { useDiagnosis, useSheetActs } from "../../api/sheets";
import { StandingSign } from "../../floor/FloorPage";
import { byPlace, choicesOf, lasts, standing } from "../../floor/sheet";
import type { Go } from "../../shell/place";
import { Steps, Timeline } from "./Steps";
import { when } from "./model";

interface Props {
  design: string;
  sheet: SheetView;
  may: boolean;
  go: Go;
}

/** One sheet that was kept: ticked, filled in, and explained. */
export function Kept({ design, sheet, may, go }: Props) {
  const { mark } = useSheetActs(design);
  const say = (line: string, value: string, note?: string) =>
    mark.mutate({ number: sheet.number, marks: [{ line, value, note: note ?? sheet.marks[line]?.note ?? "", at: null }] });
  const done = Object.values(sheet.marks).filter((m) => m.value).length;
  return (
    <section className="printed flex min-h-0 flex-col" aria-label={`Sheet ${sheet.number}`}>
      <div className="mb-2 flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <h2 className="font-semibold">
          {sheet.kind === "test" ? "Test" : "Build"} sheet {sheet.number}
        </h2>
        <span className="muted text-[12px]">
          {when(sheet.at)} by {sheet.who}
          {sheet.kind === "build" && `, from ${sheet.about.since}`}
        </span>
        <span className="text-[12px]" data-testid="made">
          {done} of {sheet.lines.length} {sheet.kind === "test" ? "made" : "done"}
          {sheet.wrong.length > 0 && <strong className="text-error font-semibold">, {sheet.wrong.length} otherwise</strong>}
        </span>
        {!sheet.same_draft && (
          <span className="text-[12px] font-medium">
            {sheet.stale.length > 0
              ? `the draft has changed since: ${sheet.stale.length} lines are stale`
              : "the draft has changed since; nothing here is stale"}
          </span>
        )}
        <span className="no-print ml-auto flex gap-3 text-[12px]">
          <a className="link-quiet flex items-center gap-1" href={`/d/${design}/sheet/${sheet.number}`} target="_blank" rel="noreferrer">
            <Smartphone size={13} aria-hidden="true" /> for the hand
          </a>
          {sheet.kind === "test" && (
            <a className="link-quiet" href={`/api/designs/${design}/sheets/${sheet.number}/results.csv`}>
              CSV
            </a>
          )}
          <button type="button" className="link-quiet flex items-center gap-1" onClick={() => window.print()}>
            <Printer size={13} aria-hidden="true" /> print
          </button>
        </span>
      </div>
      {mark.isError && (
        <p role="alert" className="text-error text-[12px]">
          {mark.error.problem.errors?.[0]?.sentence ?? mark.error.message}
        </p>
      )}
      {sheet.kind === "build" ? (
        <div className="min-h-0 flex-1 overflow-y-auto">
          {(sheet.about.outages?.length ?? 0) > 0 && <Timeline steps={sheet.lines} outages={sheet.about.outages ?? []} />}
          {sheet.about.seconds !== undefined && <p className="muted mb-1 text-[12px]">about {lasts(sheet.about.seconds)}</p>}
          <Steps
            steps={sheet.lines}
            marks={sheet.marks}
            {...(may ? { onTick: (id, on) => say(id, on ? "done" : ""), onNote: (id, note) => say(id, sheet.marks[id]?.value ?? "", note) } : {})}
          />
        </div>
      ) : (
        <div className="flex min-h-0 flex-1 flex-col">
          {done > 0 && <Explained design={design} sheet={sheet} go={go} />}
          <div className="min-h-0 flex-1 overflow-y-auto">
            <Results sheet={sheet} may={may} say={say} />
          </div>
        </div>
      )}
    </section>
  );
}

function Results({ sheet, may, say }: { sheet: SheetView; may: boolean; say: (line: string, value: string) => void }) {
  return (
    <table className="w-full table-fixed text-left text-[12px]" aria-label="Tests">
      <thead className="muted">
        <tr>
          <th className="w-6" />
          <th className="py-1 font-medium">do</th>
          <th className="w-[34%] py-1 font-medium">to see</th>
          <th className="w-36 py-1 font-medium">seen</th>
        </tr>
      </thead>
      {byPlace(sheet.lines).map(({ place, lines }) => (
        <tbody key={place}>
          <tr className="bg-base-200">
            <th colSpan={4} scope="rowgroup" className="py-1 pl-1 font-semibold">
              {lines[0]?.do === "look" ? "Look at" : "Stand at"} <span className="font-mono">{place}</span>
            </th>
          </tr>
          {lines.map((line) => {
            const mark = sheet.marks[line.id];
            const stale = sheet.stale.includes(line.id);
            return (
              <tr key={line.id} data-test={line.id} className={`hair border-t align-top ${stale ? "opacity-60" : ""}`}>
                <td className="py-1">
                  {may && !mark?.value ? (
                    <button
                      type="button"
                      className="cursor-pointer"
                      title="It is as expected"
                      aria-label={`${line.id} is as expected`}
                      onClick={() => say(line.id, line.expect)}
                    >
                      <StandingSign of="open" />
                    </button>
                  ) : (
                    <StandingSign of={standing(line, mark, sheet.wrong)} />
                  )}
                </td>
                <td className="py-1 pr-2 break-words">
                  {line.how}
                  {stale && <span className="muted block">stale: another result is to be expected now</span>}
                </td>
                <td className="py-1 pr-2 break-words">{line.to_see}</td>
                <td className="py-1">
                  <SeenBox line={line} value={mark?.value ?? ""} may={may} say={say} />
                  {mark?.who && (
                    <span className="muted block text-[11px]">
                      {mark.who}, {when(mark.at)}
                    </span>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      ))}
    </table>
  );
}

function SeenBox({ line, value, may, say }: { line: SheetView["lines"][number]; value: string; may: boolean; say: (line: string, value: string) => void }) {
  const list = `seen-${line.id}`;
  return (
    <>
      <input
        key={value}
        className="input input-xs w-full font-mono"
        list={list}
        aria-label={`Seen at ${line.id}`}
        defaultValue={value}
        disabled={!may}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
        onBlur={(e) => e.target.value.trim() !== value && say(line.id, e.target.value.trim())}
      />
      <datalist id={list}>
        {[...choicesOf(line).map((c) => c.value), line.expect].map((v) => (
          <option key={v} value={v} />
        ))}
      </datalist>
    </>
  );
}

/** What explains what was seen, the best first, and the test that tells the best apart. */
function Explained({ design, sheet, go }: { design: string; sheet: SheetView; go: Go }) {
  const marked = Object.entries(sheet.marks)
    .map(([k, m]) => `${k}=${m.value}`)
    .join(" ");
  const found = useDiagnosis(design, sheet.number, marked);
  const rows = (found.data?.explanations ?? []) as unknown as Explanation[];
  const best = rows[0];
  const next = found.data?.next_test as { id: string; stand: string; how: string } | null | undefined;
  return (
    <aside className="no-print hair max-h-[48%] shrink-0 overflow-y-auto border-b pb-2" aria-label="Diagnosis" data-testid="diagnosis">
      <h3 className="mb-1 font-semibold">What explains it</h3>
      {found.data?.state === "running" && (
        <div role="status">
          <progress className="progress progress-primary w-full" value={found.data.done} max={Math.max(found.data.total, 1)} />
          <p className="muted text-[12px]">what each mistake would show is being worked out</p>
        </div>
      )}
      {best && best.faults.length === 0 && <p className="text-[13px]">All that was seen is as expected: nothing is known to be wrong.</p>}
      {best && best.faults.length > 0 && found.data && !found.data.complete && (
        <p className="mb-1 text-[13px] font-medium">Nothing explains all of it; this comes nearest.</p>
      )}
      {next && sheet.wrong.length > 0 && (
        <p className="border-primary mb-2 border-l-2 pl-2 text-[12px]">
          Next, at <span className="font-mono">{next.stand}</span>: {next.how}. It tells the first ones apart.
        </p>
      )}
      {sheet.wrong.length > 0 && (
        <ol className="text-[12px]">
          {rows.slice(0, 12).map((e, k) => (
            <li key={k} className={`hair border-t py-1.5 ${e.explains < (best?.explains ?? 0) ? "opacity-60" : ""}`}>
              <p className="flex items-baseline gap-2">
                <span className="tabular-nums">
                  {e.explains}/{e.of}
                </span>
                <strong className={`min-w-0 flex-1 ${k === 0 ? "font-semibold" : "font-normal"}`}>{e.said}</strong>
              </p>
              <p className="flex flex-wrap gap-x-3 pl-8 text-[11px]">
                {e.where.slice(0, 4).map((p) => (
                  <button key={p.pointer} type="button" className="link-quiet" onClick={() => go({ at: p.pointer })}>
                    {p.title}
                  </button>
                ))}
              </p>
              {e.alike.length > 0 && (
                <details className="muted pl-8">
                  <summary className="cursor-pointer">{e.alike.length} more that no test tells from it</summary>
                  <ul>
                    {e.alike.slice(0, 12).map((a, n) => (
                      <li key={n}>{a.said}</li>
                    ))}
                  </ul>
                </details>
              )}
            </li>
          ))}
        </ol>
      )}
    </aside>
  );
}
