import { ChevronRight, X } from "lucide-react";
import { useId, useState } from "react";
import { Refusal, type Schemas } from "../api/client";
import { useClimb, useDraft, useItem, useNames } from "../api/queries";
import { FindingCard } from "../parts/FindingCard";
import { CopyPort } from "./port/CopyPort";
import { ShortForm } from "./port/ShortForm";
import { SwitchMode } from "./port/SwitchMode";
import { Remove } from "./Remove";
import { Probe } from "./Probe";
import { plugPlace, portPlace, tagsOf, takesVlans } from "./probe";
import { CHOICES, type Field, fieldsOf, offered, readBack, suggestions, written } from "./fields";
import type { StageProps } from "./parts";

/** The bench side: the selected thing, editable, with what it leans on and what leans on it; with nothing selected, what to mend. */
export function Bench(props: StageProps) {
  const { design, place, select } = props;
  return (
    <aside className="hair bg-base-100 col-start-3 row-start-2 flex w-60 flex-col xl:w-72 overflow-y-auto border-l" aria-label="Bench side">
      {place.at === null ? <ToMend {...props} /> : <Thing key={place.at} {...props} design={design} at={place.at} onClose={() => select(null)} />}
    </aside>
  );
}

function ToMend({ design, select, change }: StageProps) {
  const climb = useClimb(design);
  const findings = climb.data?.findings ?? [];
  return (
    <section className="p-3">
      <h2 className="eyebrow mb-2">To mend</h2>
      {climb.isPending && <p className="muted">Being worked out… on a site of thousands of rules this takes a minute.</p>}
      {climb.data && findings.length === 0 && <p className="muted">Nothing is broken. Click a cell, a point or a name, and it opens here.</p>}
      {findings.map((f) => (
        <FindingCard key={f.code + f.sentence} finding={f} select={select} onMend={(patch) => change.mutate({ kind: "patch", patch })} />
      ))}
    </section>
  );
}

function Thing({ design, at, go, select, change, onClose }: StageProps & { at: string; onClose: () => void }) {
  const item = useItem(design, at);
  const climb = useClimb(design);
  const names = useNames(design);
  const draft = useDraft(design);
  if (item.isError && !(item.data && unheard(item.error)))
    return (
      <section className="p-3">
        <Title kind="" title="Nothing is there any more" onClose={onClose} />
        <p className="muted">{item.error.message}</p>
      </section>
    );
  if (!item.data) return null;
  const thing = item.data;
  const inside = (p: string) => thing.pointer !== "" && (p === thing.pointer || p.startsWith(`${thing.pointer}/`));
  const findings = climb.data?.findings.filter((f) => f.pointers.some(inside)) ?? [];
  const put = (key: string, value: unknown, given: boolean, seen?: number) => {
    const since = seen === undefined ? {} : { seen };
    const path = `${thing.pointer}/${key}`;
    if (key === "name") change.mutate({ kind: "rename", wanted: { pointer: thing.pointer, name: String(value) } });
    else if (key === "id" && thing.kind === "VLAN") change.mutate({ kind: "rename", wanted: { pointer: thing.pointer, number: Number(value) } });
    else if (value === "" && given) change.mutate({ kind: "patch", patch: [{ op: "remove", path }], ...since });
    else change.mutate({ kind: "patch", patch: [{ op: given ? "replace" : "add", path, value }], ...since });
  };
  const known = (key: string) => suggestions(key, deviceOf(thing), names.data ?? []);
  return (
    <section className="flex flex-col gap-4 p-3">
      <Title kind={thing.kind} title={thing.title} onClose={onClose} />
      {findings.map((f) => (
        <FindingCard key={f.code + f.sentence} finding={f} select={select} onMend={(patch) => change.mutate({ kind: "patch", patch })} />
      ))}
      <dl className="flex flex-col">
        {Array.isArray(thing.value) && <p className="font-mono">{thing.value.join(" — ")}</p>}
        {fieldsOf(thing.kind, thing.value).map((field) => (
          <FieldRow key={field.key} field={field} busy={change.isPending} put={put} version={draft.data?.version ?? 0} known={known(field.key)} />
        ))}
      </dl>
      {plugPlace(thing) !== null && <Probe key={thing.pointer} design={design} place={plugPlace(thing) ?? ""} tags={tagsOf(thing.value)} go={go} />}
      {portPlace(thing) !== null && (
        <div className="flex flex-col gap-2" key={`actions ${thing.pointer}`}>
          {takesVlans(thing.value) && <ShortForm design={design} place={portPlace(thing) ?? ""} change={change} />}
          {plugPlace(thing) !== null && <CopyPort design={design} place={plugPlace(thing) ?? ""} change={change} />}
          <SwitchMode design={design} place={portPlace(thing) ?? ""} owner={thing.pointer.split("/").slice(0, 3).join("/")} change={change} />
        </div>
      )}
      <Links title="Depends on" links={thing.depends_on} select={select} none="Nothing." />
      <Links title="Needed by" links={thing.needed_by} select={select} none="Nothing; it can go." />
      {/\/\d+$/.test(thing.pointer) && <Remove design={design} thing={thing} change={change} select={select} />}
      <p className="muted font-mono text-[11px] break-all" title="JSON Pointer into the design document">
        {thing.pointer || "/"}
      </p>
    </section>
  );
}

/** The server could not be asked: what is shown, and typed, stays. */
function unheard(error: Error): boolean {
  return !(error instanceof Refusal) || error.problem.status === 0 || error.problem.status >= 500;
}

function Title({ kind, title, onClose }: { kind: string; title: string; onClose: () => void }) {
  return (
    <header className="flex items-start gap-2">
      <div className="min-w-0 flex-1">
        <p className="eyebrow">{kind}</p>
        <h2 className="text-[15px] leading-tight font-semibold break-words">{title}</h2>
      </div>
      <button type="button" className="btn btn-ghost btn-xs btn-square" aria-label="Close, show what to mend" onClick={onClose}>
        <X size={14} />
      </button>
    </header>
  );
}

interface RowProps {
  field: Field;
  busy: boolean;
  /** `seen`: the version of the draft the typing began on. */
  put: (key: string, value: unknown, given: boolean, seen?: number) => void;
  version: number;
  /** Names the field may hold. */
  known: string[];
}

/** The device a thing is part of, by the head of its title; null outside devices. */
function deviceOf(thing: Schemas["Item"]): string | null {
  return thing.pointer.startsWith("/devices/") ? (thing.title.split(" ")[0] ?? null) : null;
}

function FieldRow({ field, busy, put, known, version }: RowProps) {
  return (
    <div className="hair grid grid-cols-[6rem_1fr] items-center gap-2 border-t py-1 last:border-b">
      <dt className="muted">{field.key.replaceAll("_", " ")}</dt>
      <dd className="min-w-0">
        {field.kind === "flag" && (
          <input
            type="checkbox"
            className="toggle toggle-sm toggle-primary"
            aria-label={field.key}
            checked={field.value}
            disabled={busy}
            onChange={(e) => put(field.key, e.target.checked, field.given)}
          />
        )}
        {field.kind === "parts" && <span className="muted">{field.count} inside</span>}
        {field.kind === "text" && offered(field) && (
          <select className="select select-xs w-full" aria-label={field.key} value={written(field.value)} disabled={busy} onChange={(e) => put(field.key, e.target.value, field.given)}>
            {!CHOICES[field.key]?.includes(written(field.value)) && <option value="">none</option>}
            {CHOICES[field.key]?.map((word) => (
              <option key={word}>{word}</option>
            ))}
          </select>
        )}
        {((field.kind === "text" && !offered(field)) || field.kind === "list") && <TextField field={field} put={put} known={known} version={version} />}
      </dd>
    </div>
  );
}

/** A field that keeps what is typed until it is stored, whatever happens to the draft meanwhile. */
function TextField({ field, put, known, version }: { field: Extract<Field, { kind: "text" | "list" }>; put: RowProps["put"]; known: string[]; version: number }) {
  const now = written(field.value);
  const [typed, setTyped] = useState<{ text: string; over: string; seen: number; sent: boolean } | null>(null);
  const text = typed?.text ?? now;
  const list = useId();
  if (typed && typed.sent && now !== typed.over) setTyped(null); // stored, perhaps written another way
  const setText = (words: string) => setTyped({ text: words, over: typed?.over ?? now, seen: typed?.seen ?? version, sent: false });
  const commit = () => {
    if (!typed || typed.text.trim() === typed.over) {
      setTyped(null);
      return;
    }
    put(field.key, readBack(typed.text, field.value), field.given, typed.seen);
    setTyped({ ...typed, sent: true });
  };
  return (
    <>
    <datalist id={list}>
      {known.map((name) => (
        <option key={name} value={field.kind === "list" ? [...field.value.filter((v) => v !== "any" && v !== name), name].join(", ") : name} />
      ))}
    </datalist>
    <input
      list={known.length > 0 ? list : undefined}
      className={`hover:border-base-300 focus:border-base-content/40 w-full rounded border border-transparent bg-transparent px-1 py-0.5 ${field.key === "note" ? "" : "font-mono text-[12px]"}`}
      aria-label={field.key}
      title={text}
      value={text}
      onChange={(e) => setText(e.target.value)}
      onBlur={commit}
      onKeyDown={(e) => {
        if (e.key === "Enter") e.currentTarget.blur();
        if (e.key === "Escape") setTyped(null);
      }}
    />
    </>
  );
}

function Links({ title, links, select, none }: { title: string; links: Schemas["Link"][]; select: StageProps["select"]; none: string }) {
  return (
    <div>
      <h3 className="eyebrow mb-1">{title}</h3>
      {links.length === 0 && <p className="muted">{none}</p>}
      <ul>
        {links.map((l) => (
          <li key={l.pointer}>
            <button type="button" className="hover:bg-base-200 flex w-full cursor-pointer items-center gap-1 rounded px-1 py-0.5 text-left" onClick={() => select(l.pointer)}>
              <span className="muted w-20 shrink-0 truncate text-[12px]">{l.kind}</span>
              <span className="min-w-0 flex-1 truncate" title={l.title}>
                {l.title}
              </span>
              <ChevronRight size={12} className="muted" aria-hidden="true" />
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}
