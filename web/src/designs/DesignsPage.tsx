import { Copy, Download, FilePlus2, Grid3x3, Trash2, Undo2, Upload } from "lucide-react";
import { useState } from "react";
import { Link } from "wouter";
import type { Schemas } from "../api/client";
import { useDesignChange, useRemoved, useStarts } from "../api/designs";
import { useMe } from "../api/people";
import { useClimb, useDesigns } from "../api/queries";
import { Dialog } from "../parts/Dialog";
import { SmallDrawing } from "./SmallDrawing";
import { freeName, LONGEST, since } from "./model";

/** Every design one may read; and where new ones come from: nothing, a starting point, a file, another design. */
export function DesignsPage({ onOpen }: { onOpen: (design: string, stage: "cabling" | "reach") => void }) {
  const designs = useDesigns();
  const starts = useStarts();
  const removed = useRemoved();
  const me = useMe();
  const change = useDesignChange();
  const [over, setOver] = useState(false);
  const known = (designs.data ?? []).filter((d) => !d.branch_of);
  const names = known.map((d) => d.name);
  const begin = (wanted: Schemas["NewDesign"], stage: "cabling" | "reach" = "cabling") =>
    change.mutate({ kind: "begin", wanted }, { onSuccess: (id) => id && onOpen(id, stage) });
  const take = (file: File | undefined) => {
    if (!file) return;
    if (file.size > LONGEST) return change.mutate({ kind: "file", text: "" });
    void file.text().then((text) => change.mutate({ kind: "file", text }, { onSuccess: (id) => id && onOpen(id, "reach") }));
  };
  return (
    <div
      className="bg-base-200 text-base-content h-full overflow-y-auto"
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={(e) => e.currentTarget === e.target && setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        take(e.dataTransfer.files[0]);
      }}
    >
      <header className="hair bg-base-100 flex h-11 items-center gap-2 border-b px-5">
        <img src="/mark.svg" alt="" className="size-6" />
        <span className="font-semibold tracking-tight">Anabasis</span>
        <span className="flex-1" />
        <Link href="/campaigns" className="link-quiet mr-4 flex items-center gap-1.5">
          <Grid3x3 size={14} aria-hidden="true" /> Campaigns
        </Link>
        <span className="muted">{me.data?.name}</span>
      </header>
      <main className={`mx-auto max-w-[70rem] px-5 py-6 ${over ? "outline-accent outline-2 outline-dashed -outline-offset-4" : ""}`}>
        <h1 className="text-2xl font-semibold tracking-tight">Designs</h1>
        {change.isError && <Refused error={change.error.problem.errors?.map((e) => e.sentence) ?? [change.error.message]} onClose={() => change.reset()} />}
        <section aria-label="Begin" className="mt-4">
          <h2 className="eyebrow">Begin one</h2>
          <div className="mt-2 grid grid-cols-2 gap-3 lg:grid-cols-5">
            <NewTile title="Empty" words="Nothing yet: draw in the first box yourself." base="New site" names={names} onBegin={(name) => begin({ name })} />
            {starts.data?.map((s) => (
              <NewTile key={s.id} title={s.name} words={s.note} base={s.name} names={names} onBegin={(name) => begin({ name, start: s.id })} />
            ))}
            <label className="hair bg-base-100 hover:border-base-content/40 flex cursor-pointer flex-col gap-1 rounded-md border border-dashed p-3">
              <span className="flex items-center gap-1.5 font-medium">
                <Upload size={15} aria-hidden="true" /> From a file
              </span>
              <span className="muted text-[12px]">Choose a design file, YAML or JSON, or drop one anywhere on this page.</span>
              <input
                type="file"
                className="sr-only"
                accept=".yaml,.yml,.json"
                onChange={(e) => {
                  take(e.target.files?.[0]);
                  e.target.value = "";
                }}
              />
            </label>
          </div>
        </section>
        <section aria-label="Designs" className="mt-7">
          <h2 className="eyebrow">{known.length === 0 ? "None yet" : `${known.length} ${known.length === 1 ? "design" : "designs"}`}</h2>
          <ul className="mt-2 grid grid-cols-1 gap-3 md:grid-cols-2 lg:grid-cols-3">
            {known.map((d) => (
              <Card key={d.id} design={d} names={names} change={change} onOpen={onOpen} onCopy={(name) => begin({ name, copy_of: d.id }, "reach")} />
            ))}
          </ul>
        </section>
        {removed.data && removed.data.length > 0 && (
          <details className="mt-6">
            <summary className="cursor-pointer">
              <span className="eyebrow">Removed</span> <span className="muted">{removed.data.length}, kept for thirty days</span>
            </summary>
            <ul className="mt-1">
              {removed.data.map((d) => (
                <li key={d.id} className="flex items-center gap-3 py-1">
                  <span>{d.name}</span>
                  <button
                    type="button"
                    className="link-quiet flex items-center gap-1"
                    aria-label={`Bring ${d.name} back`}
                    onClick={() => change.mutate({ kind: "bring-back", id: d.id })}
                  >
                    <Undo2 size={13} aria-hidden="true" /> bring it back
                  </button>
                </li>
              ))}
            </ul>
          </details>
        )}
      </main>
    </div>
  );
}

function Refused({ error, onClose }: { error: string[]; onClose: () => void }) {
  return (
    <div role="alert" className="bg-error text-error-content mt-3 flex items-start gap-4 rounded-md p-3">
      <div className="flex-1">
        <p className="font-semibold">That was refused, and nothing was kept of it:</p>
        <ul>
          {error.slice(0, 12).map((line) => (
            <li key={line}>{line}</li>
          ))}
        </ul>
        {error.length > 12 && <p>and {error.length - 12} more.</p>}
      </div>
      <button type="button" className="link-quiet" onClick={onClose}>
        Close
      </button>
    </div>
  );
}

/** One way to begin; the name is asked for in its place, with a free one proposed. */
function NewTile({ title, words, base, names, onBegin }: { title: string; words: string; base: string; names: string[]; onBegin: (name: string) => void }) {
  const [name, setName] = useState<string | null>(null);
  if (name === null)
    return (
      <button
        type="button"
        className="hair bg-base-100 hover:border-base-content/40 flex cursor-pointer flex-col gap-1 rounded-md border p-3 text-left"
        onClick={() => setName(freeName(base, names))}
      >
        <span className="flex items-center gap-1.5 font-medium">
          <FilePlus2 size={15} aria-hidden="true" /> {title}
        </span>
        <span className="muted line-clamp-4 text-[12px]">{words}</span>
      </button>
    );
  return (
    <form
      className="border-accent bg-base-100 flex flex-col gap-2 rounded-md border p-3"
      onSubmit={(e) => {
        e.preventDefault();
        if (name.trim() !== "") onBegin(name.trim());
      }}
    >
      <label className="flex flex-col gap-1">
        <span className="text-[12px]">What it is called</span>
        <input
          className="hair bg-base-100 h-8 rounded border px-2"
          autoFocus
          maxLength={80}
          value={name}
          onFocus={(e) => e.currentTarget.select()}
          onChange={(e) => setName(e.target.value)}
          onKeyDown={(e) => e.key === "Escape" && setName(null)}
        />
      </label>
      <button type="submit" className="btn btn-primary btn-sm" disabled={name.trim() === ""}>
        Begin
      </button>
    </form>
  );
}

interface CardProps {
  design: Schemas["Listed"];
  names: string[];
  change: ReturnType<typeof useDesignChange>;
  onOpen: (design: string, stage: "cabling" | "reach") => void;
  onCopy: (name: string) => void;
}

function Card({ design, names, change, onOpen, onCopy }: CardProps) {
  const climb = useClimb(design.id);
  const worst = climb.data?.findings[0];
  const [leaving, setLeaving] = useState(false);
  const may = design.role === "administer";
  return (
    <li className="hair bg-base-100 flex flex-col overflow-hidden rounded-md border" data-design={design.name}>
      <button type="button" className="hover:bg-base-200 flex flex-1 cursor-pointer flex-col text-left" onClick={() => onOpen(design.id, "reach")}>
        <SmallDrawing design={design.id} />
        <span className="flex flex-col gap-0.5 px-3 pt-2 pb-2">
          <span className="text-[15px] font-semibold">{design.name}</span>
          <span className="muted text-[12px]">
            draft <span className="font-mono">{design.version}</span>
            {design.published ? ` · published ${design.published}` : ""} ·{" "}
            {design.last_author
              ? `${design.last_author}, ${since(design.last_at ?? design.created_at, new Date())}`
              : `begun ${since(design.created_at, new Date())}`}
          </span>
          <span className={`line-clamp-2 text-[12px] ${worst?.severity === "breaks" ? "text-error" : "muted"}`}>
            {climb.isPending ? "…" : worst ? worst.sentence : "Nothing to mend."}
          </span>
        </span>
      </button>
      <p className="hair flex gap-1 border-t px-2 py-1">
        <button type="button" className="btn btn-ghost btn-xs" onClick={() => onCopy(freeName(`${design.name}, copy`, names))}>
          <Copy size={12} aria-hidden="true" /> Copy
        </button>
        <a className="btn btn-ghost btn-xs" href={`/api/designs/${design.id}/file`} download>
          <Download size={12} aria-hidden="true" /> YAML
        </a>
        <a className="btn btn-ghost btn-xs" href={`/api/designs/${design.id}/file?form=json`} download>
          JSON
        </a>
        <span className="flex-1" />
        {may && (
          <button type="button" className="btn btn-ghost btn-xs" aria-label={`Remove ${design.name}`} onClick={() => setLeaving(true)}>
            <Trash2 size={12} aria-hidden="true" />
          </button>
        )}
      </p>
      {leaving && <RemoveDesign name={design.name} onClose={() => setLeaving(false)} onRemove={() => change.mutate({ kind: "remove", id: design.id })} />}
    </li>
  );
}

/** Removing asks for the name; the design can be brought back for a while. */
function RemoveDesign({ name, onClose, onRemove }: { name: string; onClose: () => void; onRemove: () => void }) {
  const [typed, setTyped] = useState("");
  return (
    <Dialog label={`Remove ${name}`} onClose={onClose}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (typed.trim() !== name) return;
          onRemove();
          onClose();
        }}
      >
        <h2 className="text-lg font-semibold">Remove {name}</h2>
        <p>Its draft, what-ifs and published revisions go with it. For thirty days it can be brought back from this page.</p>
        <label className="flex flex-col gap-1">
          <span className="muted text-[12px]">Type its name</span>
          <input className="hair bg-base-100 h-8 rounded border px-2" value={typed} onChange={(e) => setTyped(e.target.value)} />
        </label>
        <p className="flex justify-end gap-2">
          <button type="button" className="btn btn-ghost btn-sm" onClick={onClose}>
            Keep it
          </button>
          <button type="submit" className="btn btn-error btn-sm" disabled={typed.trim() !== name}>
            Remove it
          </button>
        </p>
      </form>
    </Dialog>
  );
}
