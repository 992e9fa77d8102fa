import { Suspense, useEffect, useReducer, useRef, useState } from "react";
import { useDown, useLive } from "../api/live";
import { useChange, useDesigns, useDraft } from "../api/queries";
import { type Role, useMe } from "../api/people";
import { Bench } from "./Bench";
import { Clash } from "./Clash";
import { ConsequencesLine } from "./ConsequencesLine";
import { type Action } from "./actions";
import { Finder } from "./Finder";
import { People } from "./People";
import { fetchTheRest, PAGES } from "./pages";
import { usePlace } from "./place";
import { Rail } from "./Rail";
import { Shortcuts } from "./Shortcuts";
import { firstState, keep, kept, shellReducer } from "./state";
import { STAGE_WORDS, STAGES } from "./stages";
import { TopBar } from "./TopBar";
import { UndoOfOthers } from "./UndoOfOthers";
import { Guarded } from "./Guarded";
import { Hint } from "./Hint";
import { TableDialog } from "./table/TableDialog";
import { usePasted } from "./table/usePasted";
import { MakeDialog } from "./thing/MakeDialog";
import { useKeys } from "./useKeys";
import { Working } from "./Working";

/** The frame: rail, stage, bench side, and the consequences line that is never stale. */
export function Frame({ design }: { design: string }) {
  const { place, go } = usePlace();
  const draft = useDraft(design);
  const change = useChange(design);
  const designs = useDesigns();
  const live = useLive(design, place.stage, place.at);
  const down = useDown();
  const summary = designs.data?.find((d) => d.id === design);
  const me = useMe();
  const met = change.error?.problem.clash ?? null;
  const whose = draft.data?.undo_of ?? null;
  const others = whose !== null && me.data !== undefined && whose !== me.data.name ? whose : null;
  const undo = () => {
    if (!draft.data?.can_undo) return;
    if (others !== null) dispatch({ type: "overlay-opened", overlay: "undo" });
    else change.mutate({ kind: "undo" });
  };
  const settle = (side: "mine" | "theirs") => {
    const patch = (side === "mine" ? met?.on_top : met?.beside) ?? [];
    if (met && patch.length > 0) change.mutate({ kind: "patch", patch, seen: met.version });
    else change.reset();
  };
  const [shell, dispatch] = useReducer(shellReducer, null, () =>
    firstState(kept(localStorage), matchMedia("(prefers-color-scheme: dark)").matches, matchMedia("(max-width: 900px)").matches),
  );
  useEffect(() => {
    document.documentElement.dataset["theme"] = shell.theme;
    keep(localStorage, shell);
  }, [shell]);
  useKeys(
    {
      "/": () => dispatch({ type: "overlay-opened", overlay: "finder" }),
      "mod+k": () => dispatch({ type: "overlay-opened", overlay: "finder" }),
      "?": () => dispatch({ type: "overlay-opened", overlay: "shortcuts" }),
      b: () => dispatch({ type: "bench-turned" }),
      d: () => dispatch({ type: "theme-turned" }),
      Escape: () => dispatch({ type: "overlay-closed" }),
      "mod+z": () => undo(),
      "mod+shift+z": () => draft.data?.can_redo && change.mutate({ kind: "redo" }),
      "mod+y": () => draft.data?.can_redo && change.mutate({ kind: "redo" }),
      ...Object.fromEntries(STAGES.map((stage, k) => [String(k + 1), () => go({ stage })])),
    },
    shell.keys === "on",
  );
  const stage = useRef<HTMLElement>(null);
  const title = draft.data?.name;
  useEffect(() => {
    document.title = [STAGE_WORDS[place.stage].title, title, "Anabasis"].filter(Boolean).join(" · ");
  }, [place.stage, title]);
  const came = useRef(place.stage);
  useEffect(() => {
    if (came.current !== place.stage && document.activeElement?.closest("nav") === null) stage.current?.focus({ preventScroll: true });
    came.current = place.stage;
  }, [place.stage]);
  const select = (at: string | null) => {
    go({ at });
    if (at !== null) dispatch({ type: "bench-wanted" });
  };
  const parts = { design, place, go, select, change };
  const Page = PAGES[place.stage];
  useEffect(fetchTheRest, []);
  const [making, setMaking] = useState<string | null>(null);
  const [table, setTable] = useState<string | null>(null);
  usePasted(table === null && making === null && shell.overlay === "none", setTable);
  const actions: Action[] = [
    {
      words: "New box",
      hint: "Cabling",
      also: "switch firewall router host outside hub device add",
      act: () => go({ stage: "cabling", step: "box", at: null }),
    },
    { words: "Plug cables in", hint: "Cabling", also: "cable new", act: () => go({ stage: "cabling", step: "cables", at: null }) },
    { words: "New segment", hint: "Segments", also: "vlan subnet gateway network", act: () => go({ stage: "segments", step: "segment", at: null }) },
    { words: "Guest network", hint: "Segments", also: "visitors new segment", act: () => go({ stage: "segments", step: "visitors", at: null }) },
    { words: "New VLAN", hint: "Segments", act: () => setMaking("vlan") },
    { words: "New expectation", hint: "Expectations", act: () => setMaking("expectation") },
    { words: "New address set", hint: "Zones", act: () => setMaking("addresses") },
    { words: "New service set", hint: "Zones", act: () => setMaking("services") },
    { words: "Read a table", hint: "Design", also: "csv spreadsheet paste import list ports vlans take out export", act: () => setTable("") },
    {
      words: "Seen on site",
      hint: "History",
      also: "survey ask snmp restconf drift site living differences",
      act: () => go({ stage: "history", step: "site", one: null, two: null, at: null }),
    },
    {
      words: "Site book",
      hint: "Design",
      also: "print html paper pdf document report",
      act: () => window.open(`/api/designs/${design}/draft/book.html`, "_blank", "noopener"),
    },
    { words: "Take it out as a file", hint: "Design", also: "export download yaml", act: () => location.assign(`/api/designs/${design}/file`) },
    { words: "All designs", hint: "Design", also: "open new", act: () => go({ design: null }) },
    { words: "Dark or light", hint: "Theme", also: "dark light", act: () => dispatch({ type: "theme-turned" }) },
    { words: "Undo", hint: "Edit", act: undo },
    ...STAGES.map((stage): Action => ({ words: `Go to ${stage}`, hint: "Stage", act: () => go({ stage }) })),
  ];
  return (
    <div
      onDragOver={(e) => e.dataTransfer.types.includes("Files") && e.preventDefault()}
      onDrop={(e) => {
        const file = e.dataTransfer.files[0];
        if (!file) return;
        e.preventDefault();
        void file.text().then(setTable);
      }}
      className="bg-base-100 text-base-content grid h-full grid-cols-[9.5rem_minmax(0,1fr)_auto] grid-rows-[2.75rem_minmax(0,1fr)_auto] max-[900px]:grid-cols-[5.500rem_minmax(0,1fr)]"
    >
      <TopBar design={design} draft={draft.data} summary={summary} others={live.others} change={change} shell={shell} dispatch={dispatch} go={go} undo={undo} />
      <Rail design={design} stage={place.stage} onStage={(stage) => go({ stage })} />
      <main ref={stage} tabIndex={-1} className="relative col-start-2 row-start-2 flex min-w-0 flex-col overflow-hidden outline-none" aria-label="Stage">
        {down !== null && (
          <p role="alert" className="bg-accent text-accent-content px-4 py-1.5 font-medium">
            {down} You can look and type; nothing is sent until it is back, and nothing is lost. This page tries again by itself.
          </p>
        )}
        <Working design={design} />
        <Hint stage={place.stage} />
        <div className="min-h-0 flex-1 overflow-hidden [@media(max-height:560px)]:overflow-auto [@media(max-height:560px)]:*:min-h-[26rem]">
          <Guarded stage={place.stage}>
            <Suspense>
              <Page {...parts} />
            </Suspense>
          </Guarded>
        </div>
      </main>
      {shell.bench === "open" ? <Bench {...parts} onClose={() => dispatch({ type: "bench-turned" })} /> : null}
      <ConsequencesLine
        design={design}
        draft={draft.data}
        change={change}
        go={go}
        open={shell.overlay === "consequences"}
        latest={live.latest}
        dispatch={dispatch}
        undo={undo}
      />
      {shell.overlay === "people" && <People design={design} role={(summary?.role ?? "read") as Role} onClose={() => dispatch({ type: "overlay-closed" })} />}
      {met && met.clashes.length > 0 && (
        <Clash met={met} who={change.error?.problem.changes?.at(-1)?.author ?? "Somebody else"} onChoose={settle} onClose={() => change.reset()} />
      )}
      {shell.overlay === "undo" && others !== null && (
        <UndoOfOthers
          who={others}
          onChoose={(yes) => {
            if (yes) change.mutate({ kind: "undo" });
            dispatch({ type: "overlay-closed" });
          }}
        />
      )}
      {table !== null && <TableDialog design={design} first={table} change={change} onClose={() => setTable(null)} />}
      {making !== null && <MakeDialog design={design} kind={making} at="" owner="" change={change} select={select} onClose={() => setMaking(null)} />}
      {shell.overlay === "finder" && <Finder design={design} go={go} select={select} actions={actions} onClose={() => dispatch({ type: "overlay-closed" })} />}
      {shell.overlay === "shortcuts" && (
        <Shortcuts
          stage={place.stage}
          letters={shell.keys === "on"}
          onLetters={() => dispatch({ type: "keys-turned" })}
          onClose={() => dispatch({ type: "overlay-closed" })}
        />
      )}
    </div>
  );
}
