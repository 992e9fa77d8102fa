import { ClipboardList, ListChecks, Shuffle } from "lucide-react";
import { useState } from "react";
import { useRevisions } from "../../api/history";
import { useDesigns } from "../../api/queries";
import { type BuildView, useBuild, useSheet, useSheetActs, useSheets, useTests } from "../../api/sheets";
import { useSurveys } from "../../api/surveys";
import { lasts } from "../../floor/sheet";
import { Empty, Working } from "../../parts/Empty";
import { Segmented } from "../../parts/Segmented";
import type { StageProps } from "../../shell/parts";
import { Kept } from "./Kept";
import { Migrate } from "./Migrate";
import { Steps, Timeline } from "./Steps";
import { when } from "./model";

/** From the design to the floor and back: sheets to build and to test by, what was ticked and seen, and what explains it. */
export function FloorView({ design, place, go, change }: StageProps) {
  const sheets = useSheets(design);
  const mine = useDesigns().data?.find((d) => d.id === design);
  const may = mine?.role !== "read";
  const shown = place.one === "build" || place.one === "test" || place.one === "migrate" ? place.one : null;
  const number = shown === null ? Number(place.one ?? 0) || (sheets.data?.[0]?.number ?? null) : null;
  if (!sheets.data) return <Working />;
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[11.5rem_minmax(0,1fr)] gap-4 px-4 pb-3">
      <section className="flex min-h-0 flex-col" aria-label="Sheets">
        <div className="mb-2 flex flex-col gap-1.5">
          <button type="button" className="btn btn-primary btn-sm justify-start" onClick={() => go({ one: "build", two: null })}>
            <ClipboardList size={14} aria-hidden="true" /> Build sheet…
          </button>
          <button type="button" className="btn btn-primary btn-sm justify-start" onClick={() => go({ one: "test", two: null })}>
            <ListChecks size={14} aria-hidden="true" /> Test sheet…
          </button>
          <button type="button" className="btn btn-outline btn-sm justify-start" onClick={() => go({ one: "migrate", two: null })}>
            <Shuffle size={14} aria-hidden="true" /> Migration…
          </button>
        </div>
        <ol className="min-h-0 flex-1 overflow-y-auto" aria-label="Sheets that were kept">
          {sheets.data.map((s) => (
            <li key={s.number} className={`hair border-t py-1.5 pl-1 ${s.number === number ? "bg-base-200" : ""}`}>
              <button
                type="button"
                className="w-full cursor-pointer text-left"
                aria-current={s.number === number}
                onClick={() => go({ one: String(s.number), two: null })}
              >
                <strong className="font-semibold">
                  {s.kind === "test" ? "Test" : "Build"} sheet {s.number}
                </strong>
                <span className="muted block text-[12px]">{when(s.at)}</span>
                <span className="block text-[12px]">
                  {s.marked} of {s.lines} {s.kind === "test" ? "made" : "done"}
                  {s.wrong > 0 && <span className="text-error font-medium">, {s.wrong} otherwise</span>}
                </span>
                <span className="muted block text-[12px]">by {s.who}</span>
              </button>
            </li>
          ))}
        </ol>
      </section>
      {shown === "build" ? (
        <NewBuild design={design} may={may} onKept={(n) => go({ one: String(n) })} />
      ) : shown === "test" ? (
        <NewTests design={design} may={may} onKept={(n) => go({ one: String(n) })} />
      ) : shown === "migrate" ? (
        <Migrate design={design} may={may} change={change} onMade={() => go({ one: "build" })} />
      ) : number !== null ? (
        <One design={design} number={number} may={may} go={go} />
      ) : (
        <Empty
          title="Nothing is built or tested yet"
          hint="A build sheet is the steps from what is there to this draft, in an order that cuts nobody off. A test sheet is few tests that show every single mistake; type in what you saw, and be told what explains it."
        />
      )}
    </div>
  );
}

function One({ design, number, may, go }: { design: string; number: number; may: boolean; go: StageProps["go"] }) {
  const found = useSheet(design, number);
  if (found.isError) return <p className="text-error">{found.error?.message}</p>;
  return found.data ? <Kept design={design} sheet={found.data} may={may} go={go} /> : <Working />;
}

function NewBuild({ design, may, onKept }: { design: string; may: boolean; onKept: (number: number) => void }) {
  const revisions = useRevisions(design);
  const surveys = useSurveys(design);
  const [since, setSince] = useState("published");
  const [order, setOrder] = useState<"boxes" | "layers">("boxes");
  const found = useBuild(design, since, order, true);
  const other = useBuild(design, since, order === "boxes" ? "layers" : "boxes", Boolean(found.data?.live));
  const [only, setOnly] = useState("");
  const { keep } = useSheetActs(design);
  const boxes = [...new Set(found.data?.steps.map((s) => s.device))].filter((b) => b !== "").sort();
  const states = [
    { value: "published", words: revisions.data?.length ? `the newest revision (${revisions.data[0]?.number})` : "nothing" },
    ...(revisions.data ?? []).map((r) => ({ value: `revision:${r.number}`, words: `revision ${r.number}` })),
    ...(surveys.data ?? []).map((s) => ({ value: `survey:${s.number}`, words: `survey ${s.number}` })),
    { value: "nothing", words: "nothing" },
  ];
  return (
    <section className="flex min-h-0 flex-col" aria-label="Build sheet">
      <div className="mb-2 flex flex-wrap items-center gap-x-4 gap-y-1">
        <h2 className="font-semibold">Build sheet</h2>
        <label className="flex items-center gap-1.5 text-[12px]">
          from
          <select className="select select-xs w-44" value={since} onChange={(e) => setSince(e.target.value)}>
            {states.map((s, k) => (
              <option key={`${s.value}${k}`} value={s.value}>
                {s.words}
              </option>
            ))}
          </select>
          to this draft
        </label>
        <Segmented
          label="Order"
          options={[
            ["boxes", "box by box"],
            ["layers", "layer by layer"],
          ]}
          chosen={order}
          onChoose={setOrder}
          small
        />
        <label className="flex items-center gap-1.5 text-[12px]">
          show
          <select className="select select-xs w-32" value={boxes.includes(only) ? only : ""} onChange={(e) => setOnly(e.target.value)}>
            <option value="">every box</option>
            {boxes.map((b) => (
              <option key={b} value={b}>
                {b}
              </option>
            ))}
          </select>
        </label>
        <button
          type="button"
          className="btn btn-primary btn-xs ml-auto"
          disabled={!may || !found.data?.steps.length || keep.isPending}
          onClick={() => keep.mutate({ kind: "build", since, order }, { onSuccess: (s) => onKept(s.number) })}
        >
          Keep it, to work it off
        </button>
      </div>
      {found.isError && <p className="text-error">{found.error?.message}</p>}
      {!found.data && !found.isError && <Working />}
      {found.data && (
        <div className="min-h-0 flex-1 overflow-y-auto">
          <Sums view={found.data} other={other.data ?? null} />
          {found.data.steps.length === 0 ? (
            <p className="muted py-4">There is nothing to change: this is what is there.</p>
          ) : (
            <Steps steps={boxes.includes(only) ? found.data.steps.filter((s) => s.device === only) : found.data.steps} />
          )}
        </div>
      )}
    </section>
  );
}

/** How many steps, how long, and who is cut off meanwhile. */
export function Sums({ view, other }: { view: BuildView; other: BuildView | null }) {
  const apart = other && other.order !== view.order && (other.cut_s !== view.cut_s || other.outages.length !== view.outages.length);
  const closed = new Set(view.steps.flatMap((s) => s.closed.map((p) => `${p.from} ${p.to}`))).size;
  return (
    <div className="mb-2">
      <p className="text-[13px]" data-testid="sums">
        <strong className="font-semibold">{view.steps.length} steps</strong>, about {lasts(view.seconds)}.{" "}
        {view.live ? (
          view.outages.length > 0 ? (
            <span className="text-error">
              {view.outages.length} pairs are cut off for a while; somebody is for {lasts(view.cut_s)} in all.
            </span>
          ) : (
            "Nobody loses reach meanwhile."
          )
        ) : (
          "Nothing is there yet that could lose reach."
        )}{" "}
        {view.live && closed > 0 && (
          <span className="text-error">
            {closed} {closed === 1 ? "pair is" : "pairs are"} closed for good, as the draft says.
          </span>
        )}{" "}
        {apart && (
          <span className="muted">
            {other.order === "boxes" ? "Box by box" : "Layer by layer"}: {other.outages.length} pairs, {lasts(other.cut_s)}.
          </span>
        )}
      </p>
      {view.live && !view.operator && (
        <p className="muted text-[12px]">The design does not say where the operator sits, so nobody looks after the way to the boxes.</p>
      )}
      {view.unreached.length > 0 && (
        <p className="text-[12px]">
          The operator reaches <strong className="font-medium">{view.unreached.join(", ")}</strong> by no address: somebody stands there.
        </p>
      )}
      {view.outages.length > 0 && <Timeline steps={view.steps} outages={view.outages} />}
    </div>
  );
}

function NewTests({ design, may, onKept }: { design: string; may: boolean; onKept: (number: number) => void }) {
  const found = useTests(design, true);
  const { keep, stop } = useSheetActs(design);
  if (found.isError) return <p className="text-error">{found.error.message}</p>;
  if (!found.data) return <Working />;
  const { state, done, total, tests, telling, faults, unseen, proved, bound, untested } = found.data;
  if (state === "running")
    return (
      <section className="flex flex-col items-start gap-2" aria-label="Test sheet" role="status">
        <h2 className="font-semibold">Test sheet</h2>
        <p>Each single mistake is put into the design, and it is looked at what every test would show.</p>
        <progress className="progress progress-primary w-96" value={done} max={Math.max(total, 1)} />
        <button type="button" className="link-quiet text-[12px]" onClick={() => stop.mutate()}>
          stop
        </button>
      </section>
    );
  if (state !== "ended")
    return (
      <Empty title={state === "stopped" ? "Stopped" : "This could not be worked out"} hint="">
        <button type="button" className="btn btn-primary btn-sm" onClick={() => void found.refetch()}>
          Begin it again
        </button>
      </Empty>
    );
  const rows = tests as unknown as { id: string; stand: string; how: string; to_see: string; why: string; state: string }[];
  return (
    <section className="flex min-h-0 flex-col" aria-label="Test sheet">
      <div className="mb-1 flex flex-wrap items-baseline gap-x-4">
        <h2 className="font-semibold">Test sheet</h2>
        <span className="text-[13px]" data-testid="cover">
          {tests.length - telling.length} tests show {faults - unseen.length} of {faults} single mistakes{" "}
          <span className="muted">({proved ? "no fewer do" : `${bound} at least are needed`})</span>; {telling.length} more tell them apart.
        </span>
        <span className="ml-auto flex gap-3">
          <a className="link-quiet text-[12px]" href={`/api/designs/${design}/draft/tests.csv`}>
            CSV
          </a>
          <button
            type="button"
            className="btn btn-primary btn-xs"
            disabled={!may || tests.length === 0 || keep.isPending}
            onClick={() => keep.mutate({ kind: "test", since: "published", order: "boxes" }, { onSuccess: (s) => onKept(s.number) })}
          >
            Keep it, to make the tests
          </button>
        </span>
      </div>
      {untested.length > 0 && <p className="text-[12px]">Nobody can stand in {untested.join(", ")}.</p>}
      <div className="min-h-0 flex-1 overflow-y-auto">
        <table className="w-full table-fixed text-left text-[12px]">
          <thead className="muted">
            <tr>
              <th className="w-10 py-1 font-medium" />
              <th className="w-[17%] py-1 font-medium">stand at</th>
              <th className="py-1 font-medium">do</th>
              <th className="w-[34%] py-1 font-medium">see</th>
              <th className="w-[20%] py-1 font-medium">for</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((r) => (
              <tr key={r.id} className="hair border-t align-top">
                <td className="muted py-1 font-mono text-[11px]">{r.id}</td>
                <td className="py-1 pr-2 font-mono break-words">{r.stand}</td>
                <td className="py-1 pr-2 break-words">{r.how}</td>
                <td className="py-1 pr-2 break-words">
                  {r.to_see}
                  {r.state && <span className="muted block">{r.state}</span>}
                </td>
                <td className="muted truncate py-1" title={r.why}>
                  {r.why || (telling.includes(r.id) ? "tells mistakes apart" : "shows mistakes")}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}
