/** What the finder can do. */
export interface Action {
  /** As one would say it: "new VLAN". */
  words: string;
  /** What it is about, in a word. */
  hint: string;
  /** Other words one might type for it. */
  also?: string;
  act: () => void;
}

/** The actions that some words mean; with none, the first few. */
export function actionsFor(actions: Action[], text: string): Action[] {
  const words = text.trim().toLowerCase().split(/\s+/).filter(Boolean);
  if (words.length === 0) return actions.slice(0, 6);
  return actions.filter((a) => words.every((w) => `${a.words} ${a.hint} ${a.also ?? ""}`.toLowerCase().includes(w))).slice(0, 8);
}
