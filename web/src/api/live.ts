import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState, useSyncExternalStore } from "react";
import { http, type Schemas } from "./client";
import { line } from "./line";
import { type Heard, listen, type Page } from "./stream";
import { keys } from "./keys";

const TAB = crypto.randomUUID();
const BEAT_MS = 20_000;
const SERVER_GONE = "The server does not answer.";
const STORE_GONE = "The database does not answer.";

export function useDown(): string | null {
  return useSyncExternalStore(line.subscribe, line.down);
}

/** Say where this page is, also when it closes. */
const say = (id: string, where: { stage: string; at: string | null; gone: boolean }) =>
  http.POST("/api/designs/{design_id}/here", { params: { path: { design_id: id } }, body: { tab: TAB, ...where }, keepalive: true }).catch(() => undefined);

/** Hear what happens to a design: edits of others appear, pages of others are known, and a broken line is said. */
export function useLive(id: string, stage: string, at: string | null): { others: Page[]; latest: string | null } {
  const cache = useQueryClient();
  const [pages, setPages] = useState<Page[]>([]);
  const [latest, setLatest] = useState<string | null>(null);
  useEffect(() => {
    const refresh = () => Promise.all([cache.invalidateQueries({ queryKey: keys.design(id) }), cache.invalidateQueries({ queryKey: keys.designs })]);
    const hear = (heard: Heard) => {
      if (heard.kind === "published") void refresh();
      else if (heard.kind === "here") setPages(heard.pages ?? []);
      else if (heard.kind === "store") {
        const was = line.down();
        line.set(heard.up ? null : STORE_GONE);
        if (was !== null && line.down() === null) void refresh();
      } else if (heard.kind === "silence") {
        line.set(SERVER_GONE);
        void cache.invalidateQueries({ queryKey: ["me"] });
      } else {
        const shown = cache.getQueryData<Schemas["DraftView"]>(keys.part(id, "draft"))?.version ?? 0;
        if ((heard.version ?? 0) <= shown || cache.isMutating() > 0) return; // what this page sends is shown once it is answered
        setLatest(`${heard.who ?? "somebody"} ${heard.kind === "edit" ? "edited" : heard.kind === "undo" ? "took an edit back" : "did an edit again"}`);
        void refresh();
      }
    };
    const stop = listen(id, TAB, hear);
    return () => {
      stop();
      line.set(null);
    };
  }, [cache, id]);
  useEffect(() => {
    const tell = () => {
      if (line.down() === null) void say(id, { stage, at, gone: false });
    };
    const soon = setTimeout(tell, 300);
    const beat = setInterval(tell, BEAT_MS);
    window.addEventListener("pageshow", tell);
    return () => {
      clearTimeout(soon);
      clearInterval(beat);
      window.removeEventListener("pageshow", tell);
    };
  }, [id, stage, at]);
  useEffect(() => {
    const gone = () => void say(id, { stage: "", at: null, gone: true });
    window.addEventListener("pagehide", gone);
    return () => {
      window.removeEventListener("pagehide", gone);
      gone();
    };
  }, [id]);
  return { others: pages.filter((p) => p.tab !== TAB), latest };
}
