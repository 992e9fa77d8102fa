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
  /** The design it is about; left out = every one. */
  design?: string;
  version?: number;
  who?: string;
  up?: boolean;
  pages?: Page[];
}

/** What the pages of one browser say to each other: what was heard, which design a page looks at, that it leaves, and who is there. */
type Said = { heard: Heard } | { tab: string; looksAt: string } | { leaves: string } | "who is there";

const KINDS = ["edit", "undo", "redo", "published", "here", "store"];
const AGAIN_MS = 1500;
/** How long the one that holds the stream waits for others to say what they look at. */
const GATHER_MS = 60;
/** Of how many designs one stream tells. */
const MOST = 40;

/** Open the stream of some designs, and open it again where it was closed; returns what ends it. */
function stream(designs: string[], hear: (heard: Heard) => void): () => void {
  let source: EventSource;
  let again: ReturnType<typeof setTimeout> | undefined;
  const open = () => {
    source = new EventSource(`/api/events?${designs.map((d) => `design=${encodeURIComponent(d)}`).join("&")}`);
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

/** The one page that holds the stream: tells the others what it hears of the designs they look at. Returns what ends it, and what takes in what they say. */
function holder(id: string, tab: string, tell: (heard: Heard) => void): { end: () => void; take: (said: Said) => void } {
  const looking = new Map([[tab, id]]);
  const last = new Map<string, Heard>();
  let told: string[] = [];
  let close: (() => void) | null = null;
  const hear = (heard: Heard) => {
    if (heard.kind === "here" || heard.kind === "store") last.set(`${heard.kind} ${heard.design ?? ""}`, heard);
    if (heard.kind === "silence") last.delete("store ");
    tell(heard);
  };
  const open = () => {
    const wanted = [...new Set(looking.values())].slice(-MOST);
    if (close && wanted.every((d) => told.includes(d))) return;
    close?.();
    told = wanted;
    close = stream(told, hear);
  };
  let soon = setTimeout(open, GATHER_MS);
  return {
    end: () => {
      clearTimeout(soon);
      close?.();
    },
    take: (said) => {
      if (said === "who is there" || "heard" in said) return;
      if ("leaves" in said) looking.delete(said.leaves);
      else {
        looking.set(said.tab, said.looksAt);
        for (const heard of last.values()) if ((heard.design ?? said.looksAt) === said.looksAt) tell(heard);
        clearTimeout(soon);
        soon = setTimeout(open, GATHER_MS);
      }
    },
  };
}

/**
 * Hear what happens to a design. A browser has few connections to one server (six, by HTTP/1.1), so of all its pages, on whatever designs, one
 * holds the stream and passes on what it hears; when it goes, the next takes its place (Web Locks, Broadcast Channel).
 */
export function listen(id: string, tab: string, hear: (heard: Heard) => void): () => void {
  if (!("locks" in navigator)) return stream([id], hear);
  const among = new BroadcastChannel("anabasis live");
  const say = (said: Said) => among.postMessage(said);
  let held: { end: () => void; take: (said: Said) => void } | null = null;
  let leave: (() => void) | null = null;
  let waiting = new AbortController();
  const mine = (heard: Heard) => (heard.design ?? id) === id && hear(heard);
  among.onmessage = ({ data }: MessageEvent<Said>) => {
    if (data === "who is there") say({ tab, looksAt: id });
    else if ("heard" in data) mine(data.heard);
    else held?.take(data);
  };
  const come = () => {
    waiting = new AbortController();
    const hold = () =>
      new Promise<void>((done) => {
        held = holder(id, tab, (heard) => {
          mine(heard);
          say({ heard });
        });
        say("who is there");
        leave = () => {
          held?.end();
          held = leave = null;
          done();
        };
      });
    navigator.locks.request("anabasis live", { signal: waiting.signal }, hold).catch(() => undefined);
    say({ tab, looksAt: id });
  };
  const go = () => {
    say({ leaves: tab });
    waiting.abort();
    leave?.();
  };
  const back = (event: PageTransitionEvent) => event.persisted && come();
  come();
  window.addEventListener("pagehide", go); // a page the browser keeps for going back is no longer here
  window.addEventListener("pageshow", back);
  return () => {
    window.removeEventListener("pagehide", go);
    window.removeEventListener("pageshow", back);
    go();
    among.close();
  };
}
