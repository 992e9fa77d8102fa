/** What the frame itself remembers; what comes from the server lives in the query cache only. */
export interface ShellState {
  theme: "tidelight" | "tidedark";
  overlay: "none" | "finder" | "shortcuts" | "consequences" | "people" | "undo";
  bench: "open" | "shut";
  /** Whether single keys act wherever the focus is (WCAG 2.1.4: they can be turned off). */
  keys: "on" | "off";
}

export type ShellAction =
  | { type: "theme-turned" }
  | { type: "bench-turned" }
  | { type: "keys-turned" }
  | { type: "bench-wanted" }
  | { type: "overlay-opened"; overlay: ShellState["overlay"] }
  | { type: "overlay-closed" };

export function shellReducer(state: ShellState, action: ShellAction): ShellState {
  switch (action.type) {
    case "theme-turned":
      return { ...state, theme: state.theme === "tidelight" ? "tidedark" : "tidelight" };
    case "bench-turned":
      return { ...state, bench: state.bench === "open" ? "shut" : "open" };
    case "keys-turned":
      return { ...state, keys: state.keys === "on" ? "off" : "on" };
    case "bench-wanted":
      return state.bench === "open" ? state : { ...state, bench: "open" };
    case "overlay-opened":
      return { ...state, overlay: state.overlay === action.overlay ? "none" : action.overlay };
    case "overlay-closed":
      return { ...state, overlay: "none" };
  }
}

const KEPT = "anabasis.shell";

/** Read what was kept of an earlier visit; anything odd in it is left out. On a narrow window (or a large zoom) the bench side lies over the stage, so it begins shut. */
export function firstState(kept: string | null, prefersDark: boolean, narrow = false): ShellState {
  const state: ShellState = { theme: prefersDark ? "tidedark" : "tidelight", overlay: "none", bench: narrow ? "shut" : "open", keys: "on" };
  try {
    const old: unknown = JSON.parse(kept ?? "{}");
    if (old && typeof old === "object") {
      if ("theme" in old && (old.theme === "tidelight" || old.theme === "tidedark")) state.theme = old.theme;
      if (!narrow && "bench" in old && (old.bench === "open" || old.bench === "shut")) state.bench = old.bench;
      if ("keys" in old && (old.keys === "on" || old.keys === "off")) state.keys = old.keys;
    }
  } catch {
    return state;
  }
  return state;
}

export function keep(storage: Storage, state: ShellState): void {
  storage.setItem(KEPT, JSON.stringify({ theme: state.theme, bench: state.bench, keys: state.keys }));
}

export function kept(storage: Storage): string | null {
  return storage.getItem(KEPT);
}
