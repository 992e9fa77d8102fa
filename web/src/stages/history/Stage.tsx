import { GitFork, Send } from "lucide-react";
import { useState } from "react";
import { useComparison, useHistory, useRevisions } from "../../api/history";
import type { Schemas } from "../../api/client";
import { useDesigns, useDraft } from "../../api/queries";
import { Working } from "../../parts/Empty";
import { Tabs } from "../../parts/Tabs";
import type { StageProps } from "../../shell/parts";
import { BranchDialog, FoldDialog, PublishDialog } from "./dialogs";
import { Compared } from "./Compared";
import { FloorView } from "./FloorView";
import { LogView } from "./LogView";
import { SiblingsView } from "./SiblingsView";
import { SiteView } from "./SiteView";
import { statesOf, usual, when } from "./model";

type Open = { kind: "publish" } | { kind: "branch"; revision: number | null } | { kind: "fold"; branch: Schemas["Listed"] } | null;

/** Published revisions and what-ifs; any two compared as configuration and as reach; siblings inside one; the log. */
export function HistoryStage(props: StageProps) {
  const { design, place, go } = props;
  const tab = place.step ?? "states";
  const shown = { states: "Two states", siblings: "Two siblings", site: "Seen on site", floor: "Build and test", log: "What was done" };
  return (
    <div className="flex h-full flex-col">
      <header className="flex flex-wrap items-center gap-5 px-4 pt-3 pb-2">
        <h1 className="text-lg font-semibold">History</h1>
        <Tabs
          label="What to look at"
          names={Object.values(shown)}
          chosen={shown[tab as keyof typeof shown] ?? shown.states}
          onChoose={(name) => go({ step: Object.keys(shown).find((k) => shown[k as keyof typeof shown] === name) ?? null, one: null, two: null })}
        />
      </header>
      {tab === "siblings" ? (
        <SiblingsView {...props} />
      ) : tab === "site" ? (
        <SiteView {...props} />
      ) : tab === "floor" ? (
        <FloorView {...props} />
      ) : tab === "log" ? (
        <LogView design={design} />
      ) : (
        <States {...props} />
      )}
    </div>
  );
}

function States(props: StageProps) {
  const { design, place, go } = props;
  const draft = useDraft(design);
  const designs = useDesigns();
  const revisions = useRevisions(design);
  const acts = useHistory(design);
  const [open, setOpen] = useState<Open>(null);
  const own = designs.data?.find((d) => d.id === design);
  const branches = designs.data?.filter((d) => d.branch_of === design) ?? [];
  const [one, two] = place.one || place.two ? [place.one, place.two ?? "draft"] : usual(revisions.data ?? [], own?.branch_of ?? null);
  const found = useComparison(design, one, two);
  if (!revisions.data || !draft.data) return <Working />;
  const states = statesOf(draft.data, revisions.data);
  const parent = own?.branch_of
    ? { words: `design ${own.branch_of}`, title: `Draft of ${own.name}`, who: null, at: null, about: `this what-if began as ${own.branched_from ?? ""}` }
    : null;
  const version = draft.data.version;
  const may = own?.role ?? "read";
  const failed = acts.restore.error ?? acts.drop.error;
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[17.5rem_minmax(0,1fr)] gap-5 px-4 pb-3">
      <section className="flex min-h-0 flex-col" aria-label="States">
        <div className="mb-2 flex gap-2">
          {own?.branch_of ? (
            <button type="button" className="btn btn-primary btn-sm" disabled={may === "read"} onClick={() => setOpen({ kind: "fold", branch: own })}>
              Fold back…
            </button>
          ) : (
            <button type="button" className="btn btn-primary btn-sm" disabled={may === "read" || may === "edit"} onClick={() => setOpen({ kind: "publish" })}>
              <Send size={14} aria-hidden="true" /> Publish…
            </button>
          )}
          <button type="button" className="btn btn-outline btn-sm" disabled={may === "read"} onClick={() => setOpen({ kind: "branch", revision: null })}>
            <GitFork size={14} aria-hidden="true" /> What if…
          </button>
        </div>
        <p className="muted grid grid-cols-[2.750rem_1fr] text-[11px]">
          <span title="compared from, and to">from to</span>
        </p>
        <ol className="min-h-0 flex-1 overflow-y-auto" aria-label="Revisions">
          {[...(parent ? [parent] : []), ...states].map((s) => {
            const revision = revisions.data.find((r) => s.words === `revision ${r.number}`);
            return (
              <li
                key={s.words}
                data-state={s.words}
                className={`hair grid grid-cols-[2.750rem_1fr] border-t py-1.5 ${s.words === one || s.words === two ? "bg-base-200" : ""}`}
              >
                <span className="flex items-start gap-1.5 pt-0.5 pl-0.5">
                  <input
                    type="radio"
                    className="radio radio-xs"
                    name="one"
                    aria-label={`Compare from ${s.title}`}
                    checked={s.words === one}
                    onChange={() => go({ one: s.words, two })}
                  />
                  <input
                    type="radio"
                    className="radio radio-xs radio-primary"
                    name="two"
                    aria-label={`Compare to ${s.title}`}
                    checked={s.words === two}
                    onChange={() => go({ one, two: s.words })}
                  />
                </span>
                <div className="min-w-0">
                  <p className="flex items-baseline gap-2">
                    <strong className="font-semibold">{s.title}</strong>
                    {s.at && <span className="muted truncate text-[12px]">{when(s.at)}</span>}
                  </p>
                  <p className="break-words">{s.about}</p>
                  {s.who && <p className="muted text-[12px]">by {s.who}</p>}
                  {revision?.forced && (
                    <p className="text-error text-[12px]" title={revision.failing.join(", ")}>
                      {revision.failing.length} {revision.failing.length === 1 ? "expectation" : "expectations"} failed: {revision.forced}
                    </p>
                  )}
                  {revision && (
                    <p className="flex gap-3 text-[12px]">
                      <button
                        type="button"
                        className="link-quiet"
                        disabled={may === "read"}
                        onClick={() => acts.restore.mutate({ version, number: revision.number })}
                      >
                        restore
                      </button>
                      <button
                        type="button"
                        className="link-quiet"
                        disabled={may === "read"}
                        onClick={() => setOpen({ kind: "branch", revision: revision.number })}
                      >
                        what if…
                      </button>
                      <a className="link-quiet" href={`/api/designs/${design}/revisions/${revision.number}/file`}>
                        file
                      </a>
                    </p>
                  )}
                </div>
              </li>
            );
          })}
          {branches.map((b) => (
            <li key={b.id} data-branch={b.branch_title} className="hair grid grid-cols-[2.750rem_1fr] border-t py-1.5">
              <GitFork size={15} className="text-accent mt-0.5 ml-3" aria-hidden="true" />
              <div className="min-w-0">
                <p>
                  <strong className="font-semibold">What if {b.branch_title}</strong>
                </p>
                <p className="muted text-[12px]">
                  of {b.branched_from}; {b.version - 1} {b.version === 2 ? "edit" : "edits"}
                </p>
                <p className="flex gap-3 text-[12px]">
                  <button type="button" className="link-quiet" onClick={() => go({ design: b.id, at: null, pair: null, one: null, two: null })}>
                    open
                  </button>
                  <button type="button" className="link-quiet" onClick={() => go({ one: "draft", two: `design ${b.id}` })}>
                    compare
                  </button>
                  <button type="button" className="link-quiet" disabled={may === "read"} onClick={() => setOpen({ kind: "fold", branch: b })}>
                    fold back…
                  </button>
                  <button type="button" className="link-quiet" disabled={may === "read"} onClick={() => acts.drop.mutate(b.id)}>
                    drop
                  </button>
                </p>
              </div>
            </li>
          ))}
        </ol>
        {one && (
          <a
            className="link-quiet hair mt-1 border-t pt-2 text-[12px]"
            href={`/api/designs/${design}/compare.md?${new URLSearchParams({ one, two: two ?? "draft" })}`}
            download="comparison.md"
          >
            This comparison for a ticket (Markdown)
          </a>
        )}
        <CompareFile onText={(text) => acts.compareFile.mutate({ one: two ?? "draft", text })} />
        {failed && (
          <p role="alert" className="text-error">
            {failed.message}
          </p>
        )}
      </section>
      {acts.compareFile.data || acts.compareFile.isError ? (
        <Compared
          {...props}
          title={`${two ?? "draft"} → the file`}
          found={acts.compareFile.data}
          error={acts.compareFile.error?.problem.errors?.[0]?.sentence ?? acts.compareFile.error?.message ?? null}
          onClose={() => acts.compareFile.reset()}
        />
      ) : (
        <Compared
          {...props}
          title={one ? `${titled(one, designs.data)} → ${titled(two ?? "draft", designs.data)}` : "Nothing to compare with yet"}
          found={one ? found.data : undefined}
          error={found.error?.message ?? null}
          empty={one === null}
        />
      )}
      {open?.kind === "publish" && <PublishDialog design={design} version={version} onClose={() => setOpen(null)} />}
      {open?.kind === "branch" && (
        <BranchDialog
          design={design}
          revision={open.revision}
          onMade={(id) => go({ design: id, at: null, pair: null, one: null, two: null })}
          onClose={() => setOpen(null)}
        />
      )}
      {open?.kind === "fold" && (
        <FoldDialog
          design={design}
          branch={open.branch}
          onFolded={(into) => go({ design: into, at: null, pair: null, one: null, two: null })}
          onClose={() => setOpen(null)}
        />
      )}
    </div>
  );
}

function titled(words: string, designs: Schemas["Listed"][] | undefined): string {
  const [kind, id] = words.split(" ");
  if (kind !== "design") return words;
  const d = designs?.find((x) => x.id === id);
  return d?.branch_title ? `what if ${d.branch_title}` : (d?.name ?? words);
}

function CompareFile({ onText }: { onText: (text: string) => void }) {
  return (
    <label className="link-quiet hair mt-1 border-t pt-2 text-[12px]">
      Compare with a design file…
      <input
        type="file"
        className="sr-only"
        accept=".yaml,.yml,.json"
        onChange={async (e) => {
          const file = e.target.files?.[0];
          if (file) onText(await file.text());
          e.target.value = "";
        }}
      />
    </label>
  );
}
