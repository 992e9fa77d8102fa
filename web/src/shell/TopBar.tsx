import { Moon, Redo2, Search, Sun, Undo2, Users, PanelRight } from "lucide-react";
import type { Dispatch, ReactNode } from "react";
import type { Schemas } from "../api/client";
import { useDesigns, type useChange } from "../api/queries";
import type { Page } from "../api/stream";
import { DesignMenu } from "../designs/DesignMenu";
import { Others } from "./Others";
import type { Place } from "./place";
import { isStage } from "./stages";
import type { ShellAction, ShellState } from "./state";

interface Props {
  design: string;
  draft: Schemas["DraftView"] | undefined;
  summary: Schemas["Listed"] | undefined;
  others: Page[];
  change: ReturnType<typeof useChange>;
  shell: ShellState;
  dispatch: Dispatch<ShellAction>;
  go: (change: Partial<Place>) => void;
  undo: () => void;
}

/** The design's name and draft, the finder, undo and redo. */
export function TopBar({ design, draft, summary, others, change, shell, dispatch, go, undo }: Props) {
  const designs = useDesigns();
  return (
    <header className="hair bg-base-200 col-span-full flex min-w-0 items-center gap-3 border-b px-3 max-[900px]:gap-1">
      <img src="/mark.svg" alt="" className="size-6" />
      <span className="font-semibold tracking-tight max-[900px]:sr-only">Anabasis</span>
      <span className="muted" aria-hidden="true">
        /
      </span>
      <DesignMenu
        design={design}
        name={draft?.name ?? ""}
        designs={designs.data ?? []}
        change={change}
        onOpen={(id) => go({ design: id, at: null, pair: null })}
      />
      <button
        type="button"
        className="hair muted hover:border-base-content/40 cursor-pointer rounded border px-1.5 py-px text-[11px] whitespace-nowrap"
        title="Every edit is kept. Open History to compare, publish or go back."
        onClick={() => go({ stage: "history" })}
      >
        {summary?.branch_of ? "what-if" : "draft"} <span className="font-mono">{draft?.version}</span>
        {summary?.published ? (
          <>
            , published <span className="font-mono">{summary.published}</span>
          </>
        ) : null}
        {summary?.role === "read" ? ", read only" : ""}
      </button>
      <button
        type="button"
        className="hair bg-base-100 hover:border-base-content/40 muted ml-2 flex h-7 w-64 shrink-0 cursor-pointer max-[900px]:w-8 items-center gap-2 rounded border px-2 text-left"
        onClick={() => dispatch({ type: "overlay-opened", overlay: "finder" })}
      >
        <Search size={14} aria-hidden="true" />
        <span className="flex-1 truncate max-[900px]:sr-only">Find a VLAN, port, zone, rule…</span>
        <kbd className="font-mono text-[11px] max-[900px]:hidden">/</kbd>
      </button>
      <span className="flex-1" />
      <Others others={others} onVisit={(page) => isStage(page.stage) && go({ stage: page.stage, at: page.at })} />
      <Tool label="Undo" hint="Undo (Ctrl Z)" off={!draft?.can_undo || change.isPending} act={undo}>
        <Undo2 size={16} />
      </Tool>
      <Tool label="Redo" hint="Redo (Ctrl Shift Z)" off={!draft?.can_redo || change.isPending} act={() => change.mutate({ kind: "redo" })}>
        <Redo2 size={16} />
      </Tool>
      <Tool label={shell.theme === "tidelight" ? "Dark theme" : "Light theme"} hint="Light or dark (d)" act={() => dispatch({ type: "theme-turned" })}>
        {shell.theme === "tidelight" ? <Moon size={16} /> : <Sun size={16} />}
      </Tool>
      <span className="min-[901px]:hidden">
        <Tool label="Bench side" hint="What to mend, and what is selected (b)" act={() => dispatch({ type: "bench-turned" })}>
          <PanelRight size={16} />
        </Tool>
      </span>
      <Tool label="People" hint="Who may do what; sign out" act={() => dispatch({ type: "overlay-opened", overlay: "people" })}>
        <Users size={16} />
      </Tool>
      <Tool label="Keyboard shortcuts" hint="Keyboard shortcuts (?)" act={() => dispatch({ type: "overlay-opened", overlay: "shortcuts" })}>
        <span className="font-mono">?</span>
      </Tool>
    </header>
  );
}

interface ToolProps {
  label: string;
  hint: string;
  /** Defaults to false. */
  off?: boolean;
  act: () => void;
  children: ReactNode;
}

function Tool({ label, hint, off = false, act, children }: ToolProps) {
  return (
    <button type="button" className="btn btn-ghost btn-sm btn-square" aria-label={label} title={hint} disabled={off} onClick={act}>
      {children}
    </button>
  );
}
