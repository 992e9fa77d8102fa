import type { HarmRow, Matters, Mistake, OnStage } from "../api/campaigns";

/** A mistake in words: what it is, and where. */
export function mistakeWords(m: Mistake): string {
  return m.meaning + (m.place ? `: ${m.place}` : "") + (m.value ? ` (${m.value})` : "");
}

/** What a case is called: the parts that fail, and the mistakes. */
export function caseWords(failed: readonly string[], mistakes: readonly Mistake[]): string {
  const parts = [...failed.map((f) => `${f} fails`), ...mistakes.map(mistakeWords)];
  return parts.join("; ") || "as things are";
}

/** A time to go, in words. */
export function leftWords(seconds: number | null | undefined): string {
  if (seconds === null || seconds === undefined) return "";
  if (seconds < 90) return `about ${Math.max(1, Math.round(seconds))} s to go`;
  if (seconds < 5400) return `about ${Math.round(seconds / 60)} min to go`;
  if (seconds < 172800) return `about ${Math.round(seconds / 3600)} h to go`;
  return `about ${Math.round(seconds / 86400)} days to go`;
}

export const HARMS = ["broken open", "broken closed", "pairs lost for good", "lost meanwhile"] as const;

/** The harm of a row, in the order of `HARMS`. */
export function harmOf(row: HarmRow): number[] {
  return [row.opened.length, row.closed.length, row.lost, row.meanwhile];
}

/** The most of each harm that any of them does alone: what bars are drawn against. */
export function most(all: readonly Matters[]): number[] {
  return HARMS.map((_, k) => Math.max(0, ...all.map((m) => m.alone[k] ?? 0)));
}

/** The address of what is put on stage. */
export function stageAddress(stage: OnStage, page = "reach"): string {
  const search = new URLSearchParams(stage.failed.map((f) => ["failed", f]));
  return `/d/${stage.design}/${page}${search.size > 0 ? `?${search.toString()}` : ""}`;
}

/** What is asked of a campaign, in words. */
export function askedWords(failures: number, faults: number, together: boolean): string {
  const of = (n: number, many: string) => (n === 0 ? "" : n === 1 ? `single ${many}` : `up to ${n} ${many} at once`);
  const parts = [of(failures, "failures"), of(faults, "mistakes")].filter(Boolean);
  return (parts.join(", ") || "things as they are") + (together ? ", each with each" : "");
}
