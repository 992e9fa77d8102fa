import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState, useSyncExternalStore } from "react";
import { http, type Schemas } from "./client";
import { line } from "./line";
import { keys } from "./keys";

/** One open page of somebody, here or elsewhere. */
export interface Page {
  tab: string;
  who: string;
  stage: string;
  at: string | null;
}

interface Heard {
  kind: string;
  version?: number;
  who?: string;
  up?: boolean;
  pages?: Page[];
}

const TAB = crypto.randomUUID();
const BEAT_MS = 20_000;
const SERVER_GONE = "The server does not answer.";
const STORE_GONE = "The database does not answer.";

export function useDown(): string | null {
  return useSyncExternalStore(line.subscribe, line.down);
}

/** Hear what happens to a design: edits of others appear, pages of others are known, and a broken line is said. */
export function useLive(id: string, stage: string, at: string | null): { others: Page[]; latest: string | null } {
  const cache = useQueryClient();
  const [pages, setPages] = useState<Page[]>([]);
  const [latest, setLatest] = useState<string | null>(null);
  useEffect(() => {
    let source: EventSource | null = null;
    let again: ReturnType<typeof setTimeout> | undefined;
    const refresh = () => Promise.all([cache.invalidateQueries({ queryKey: keys.design(id) }), cache.invalidateQueries({ queryKey: keys.designs })]);
    const edited = (message: MessageEvent<string>) => {
      const heard = JSON.parse(message.data) as Heard;
      const shown = cache.getQueryData<Schemas["DraftView"]>(keys.part(id, "draft"))?.version ?? 0;
      if ((heard.version ?? 0) <= shown || cache.isMutating() > 0) return; // what this page sends is shown once it is answered
      setLatest(`${heard.who ?? "somebody"} ${heard.kind === "edit" ? "edited" : heard.kind === "undo" ? "took an edit back" : "did an edit again"}`);
      void refresh();
    };
    const open = () => {
      source = new EventSource(`/api/designs/${id}/events?tab=${TAB}`);
      for (const kind of ["edit", "undo", "redo"]) source.addEventListener(kind, edited);
      source.addEventListener("published", () => void refresh());
      source.addEventListener("here", (m: MessageEvent<string>) => setPages((JSON.parse(m.data) as Heard).pages ?? []));
      source.addEventListener("store", (m: MessageEvent<string>) => {
        const was = line.down();
        line.set((JSON.parse(m.data) as Heard).up ? null : STORE_GONE);
        if (was !== null && line.down() === null) void refresh();
      });
      source.onerror = () => {
        line.set(SERVER_GONE);
        void cache.invalidateQueries({ queryKey: ["me"] });
        if (source?.readyState === EventSource.CLOSED) again = setTimeout(open, 1500);
      };
    };
    open();
    const leave = () => source?.close();
    const back = (event: PageTransitionEvent) => event.persisted && open();
    window.addEventListener("pagehide", leave); // a page the browser keeps for going back is no longer here
    window.addEventListener("pageshow", back);
    return () => {
      window.removeEventListener("pagehide", leave);
      window.removeEventListener("pageshow", back);
      clearTimeout(again);
      source?.close();
      line.set(null);
    };
  }, [cache, id]);
  useEffect(() => {
    const tell = () => {
      if (line.down() === null)
        http.POST("/api/designs/{design_id}/here", { params: { path: { design_id: id } }, body: { tab: TAB, stage, at } }).catch(() => undefined);
    };
    const soon = setTimeout(tell, 300);
    const beat = setInterval(tell, BEAT_MS);
    return () => {
      clearTimeout(soon);
      clearInterval(beat);
    };
  }, [id, stage, at]);
  return { others: pages.filter((p) => p.tab !== TAB), latest };
}
