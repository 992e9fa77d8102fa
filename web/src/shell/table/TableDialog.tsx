import { useState } from "react";
import { useReading, type Reading } from "../../api/tables";
import { workedOut } from "../../api/making";
import type { useChange } from "../../api/queries";
import { Dialog } from "../../parts/Dialog";
import { PreviewBox } from "../../parts/PreviewBox";
import { called, KINDS, leftOver, OUT } from "./model";

interface Props {
  design: string;
  /** What was pasted or dropped; empty = it is typed here. */
  first: string;
  change: Pick<ReturnType<typeof useChange>, "mutate">;
  onClose: () => void;
}

/** Read a table into the draft: what it is read as, which rows have no place, what it would change; and every table to take out. */
export function TableDialog({ design, first, change, onClose }: Props) {
  const [text, setText] = useState(first);
  const [kind, setKind] = useState("");
  const [replace, setReplace] = useState(false);
  const wanted = text.trim() === "" ? null : { text, kind, replace };
  const reading = useReading(design, wanted);
  const told = wanted && reading.data && !reading.isError ? reading.data : null;
  const preview = { ...reading, data: reading.data?.preview };
  const made = wanted ? workedOut(preview) : null;
  return (
    <Dialog label="Read a table" onClose={onClose} wide>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (!made || !told) return;
          if (made.patch.length > 0) change.mutate({ kind: "patch", patch: made.patch });
          if (told.lost.length > 0) setText(leftOver(told));
          else onClose();
        }}
      >
        <div className="flex flex-wrap items-center gap-3">
          <h2 className="text-lg font-semibold">Read a table</h2>
          <label className="ml-auto flex items-center gap-2">
            <span className="muted">read as</span>
            <select className="select select-sm w-44" aria-label="Read as" value={kind} onChange={(e) => setKind(e.target.value)}>
              {KINDS.map(([k, words]) => (
                <option key={k} value={k}>
                  {words}
                </option>
              ))}
            </select>
          </label>
          <label className="btn btn-sm">
            A file…
            <input
              type="file"
              className="sr-only"
              aria-label="A file"
              accept=".csv,.tsv,.txt,.json,.xml,text/csv"
              onChange={(e) => void e.target.files?.[0]?.text().then(setText)}
            />
          </label>
        </div>
        <textarea
          className="hair bg-base-100 h-36 rounded border p-2 font-mono text-[12px] whitespace-pre"
          aria-label="The table"
          placeholder={"device\tport\taccess\tnote\nhall-sw\t7\t130\tdesk"}
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
        {told && <Told reading={told} />}
        <PreviewBox
          preview={wanted ? preview : null}
          hint="Paste cells from a spreadsheet, or a CSV: a line of headings in any order, a row each. What no row speaks of stays as it is."
        />
        <div className="flex flex-wrap items-center gap-3">
          <label className="flex items-center gap-2">
            <input type="checkbox" className="checkbox checkbox-sm" checked={replace} onChange={(e) => setReplace(e.target.checked)} />
            what no row speaks of goes
          </label>
          <details className="text-[12px]">
            <summary className="link-quiet cursor-pointer">take a table out</summary>
            <p className="mt-1 flex max-w-[34rem] flex-wrap gap-x-3 gap-y-1">
              {OUT.map(([file, words]) => (
                <a key={file} className="link-quiet" href={`/api/designs/${design}/draft/${file}`} target="_blank" rel="noopener">
                  {words}
                </a>
              ))}
            </p>
            <p className="mt-1 flex max-w-[34rem] flex-wrap gap-x-3 gap-y-1">
              {KINDS.slice(1).map(([k, words]) => (
                <a
                  key={k}
                  className="link-quiet"
                  href={`/api/designs/${design}/draft/${k === "topology" || k === "yang" ? `${k}.json` : `tables/${k}.csv`}`}
                  download
                >
                  {words}
                </a>
              ))}
            </p>
          </details>
          <button type="submit" className="btn btn-primary btn-sm ml-auto" disabled={!made || (made.patch.length === 0 && told?.lost.length === 0)}>
            {told && told.lost.length > 0 ? `Take over ${told.placed} rows` : "Take it over"}
          </button>
        </div>
      </form>
    </Dialog>
  );
}

/** What a table is read as: columns, what was taken for granted, and rows that have no place. */
function Told({ reading }: { reading: Reading }) {
  const columns = reading.columns.map((c, k) => ({ heading: reading.headings[k] ?? `column ${k + 1}`, column: c }));
  return (
    <div className="flex flex-col gap-2 text-[12px]" aria-label="What it is read as">
      <p>
        <strong>{called(reading.kind)}</strong>: {reading.placed} {reading.placed === 1 ? "row has" : "rows have"} a place
        {reading.lost.length > 0 && (
          <span className="text-error">
            , {reading.lost.length} {reading.lost.length === 1 ? "has" : "have"} none
          </span>
        )}
        {reading.kept > 0 && <span className="muted">; {reading.kept} more in the design stay as they are</span>}
      </p>
      <p className="flex flex-wrap gap-x-3 gap-y-1 font-mono">
        {columns.map(({ heading, column }, k) => (
          <span key={k} className={column === null ? "muted line-through" : ""} title={column === null ? "read as nothing" : `read as ${column}`}>
            {heading === column || column === null ? heading : `${heading} → ${column}`}
          </span>
        ))}
      </p>
      {reading.assumed.length > 0 && (
        <details>
          <summary className="link-quiet cursor-pointer">{reading.assumed.length} taken for granted</summary>
          <ul className="muted max-h-28 list-disc overflow-y-auto pl-5">
            {reading.assumed.map((a) => (
              <li key={a}>{a}</li>
            ))}
          </ul>
        </details>
      )}
      {reading.lost.length > 0 && (
        <ul className="border-error max-h-32 overflow-y-auto border-l-2 pl-3" aria-label="Rows without a place">
          {reading.lost.map((r) => (
            <li key={r.line}>
              <span className="muted">line {r.line}</span> <span className="font-mono">{r.text.split("\t").filter(Boolean).join(" · ")}</span>: {r.reason}
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
