/** One open page of somebody, here or elsewhere. */
export interface Page {
  tab: string;
  who: string;
  stage: string;
  at: string | null;
}

/** What is told of a design: `edit`, `undo`, `redo`, `published`, `here`, `store`, and `silence` where the server does not answer. */
export interface Heard {
  kind: string;
  version?: number;
  who?: string;
  up?: boolean;
  pages?: Page[];
}

const KINDS = ["edit", "undo", "redo", "published", "here", "store"];
const AGAIN_MS = 1500;

/** Open the stream of a design, and open it again where it was closed; returns what ends it. */
function stream(id: string, tab: string, hear: (heard: Heard) => void): () => void {
  let source: EventSource;
  let again: ReturnType<typeof setTimeout> | undefined;
  const open = () => {
    source = new EventSource(`/api/designs/${id}/events?tab=${tab}`);
    for (const kind of KINDS) source.addEventListener(kind, (m: MessageEvent<string>) => hear({ ...(JSON.parse(m.data) as Heard), kind }));
    source.onerror = () => {
      hear({ kind: "silence" });
      if (source.readyState === EventSource.CLOSED) again = setTimeout(open, AGAIN_MS);
    };
  };
  open();
  return () => {
    clearTimeout(again);
    source.close();
  };
}

/**
 * Hear what happens to a design. A browser has few connections to one server (six, by HTTP/1.1), so of all its pages on a design one
 * holds the stream and passes on what it hears; when it goes, the next takes its place (Web Locks, Broadcast Channel).
 */
export function listen(id: string, tab: string, hear: (heard: Heard) => void): () => void {
  if (!("locks" in navigator)) return stream(id, tab, hear);
  const name = `anabasis live ${id}`;
  const among = new BroadcastChannel(name);
  const last = new Map<string, Heard>();
  let leave: (() => void) | null = null;
  let waiting = new AbortController();
  among.onmessage = ({ data }: MessageEvent<Heard | "new here">) => {
    if (data !== "new here") hear(data);
    else if (leave) for (const heard of last.values()) among.postMessage(heard);
  };
  const lead = () => {
    waiting = new AbortController();
    const held = () =>
      new Promise<void>((done) => {
        const end = stream(id, tab, (heard) => {
          if (heard.kind === "here" || heard.kind === "store") last.set(heard.kind, heard);
          if (heard.kind === "silence") last.delete("store");
          hear(heard);
          among.postMessage(heard);
        });
        leave = () => {
          leave = null;
          end();
          done();
        };
      });
    navigator.locks.request(name, { signal: waiting.signal }, held).catch(() => undefined);
    among.postMessage("new here");
  };
  const go = () => {
    waiting.abort();
    leave?.();
  };
  const back = (event: PageTransitionEvent) => event.persisted && lead();
  lead();
  window.addEventListener("pagehide", go); // a page the browser keeps for going back is no longer here
  window.addEventListener("pageshow", back);
  return () => {
    window.removeEventListener("pagehide", go);
    window.removeEventListener("pageshow", back);
    go();
    among.close();
  };
}
