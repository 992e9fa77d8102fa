import type { BuildStep, Outage, Seen, TestLine } from "../api/sheets";

/** Seconds as a person says them. */
export function lasts(seconds: number): string {
  if (seconds < 90) return `${seconds} s`;
  return `${Math.round(seconds / 60)} min`;
}

/** What one can answer at a test with one touch; none = it is typed in. */
export function choicesOf(line: Pick<TestLine, "do" | "expect">): { value: string; words: string }[] {
  switch (line.do) {
    case "ping":
    case "connect":
      return [
        { value: "answer", words: "answers" },
        { value: "none", words: "nothing" },
      ];
    case "lease":
      return [{ value: "none", words: "no address" }];
    default:
      return [
        { value: line.expect.startsWith("up") ? line.expect : "up", words: "up" },
        { value: "down", words: "down" },
      ];
  }
}

export type Standing = "open" | "right" | "wrong";

/** How a line stands: not made yet, as expected, or otherwise. */
export function standing(line: Pick<TestLine, "id" | "expect">, mark: Seen | undefined, wrong: readonly string[]): Standing {
  if (!mark?.value) return "open";
  return wrong.includes(line.id) ? "wrong" : "right";
}

/** Lines by the place where one stands, in the order of the sheet. */
export function byPlace<T extends Pick<TestLine, "stand">>(lines: readonly T[]): { place: string; lines: T[] }[] {
  const found = new Map<string, T[]>();
  for (const line of lines) found.set(line.stand, [...(found.get(line.stand) ?? []), line]);
  return [...found].map(([place, held]) => ({ place, lines: held }));
}

export interface Beat {
  step: number;
  seconds: number;
  start: number;
  /** How many pairs are cut off while it lasts. */
  cut: number;
  broken: number;
}

/** The plan as a time line: when each step begins, and how many pairs are cut off from it on. */
export function timeline(steps: readonly Pick<BuildStep, "step" | "takes_s" | "broken">[], outages: readonly Outage[]): Beat[] {
  let start = 0;
  return steps.map((s) => {
    const beat = { step: s.step, seconds: s.takes_s, start, cut: outages.filter((o) => o.first <= s.step && s.step <= o.last).length, broken: s.broken.length };
    start += s.takes_s;
    return beat;
  });
}

/** What waits to be sent, newest answer of each line alone. */
export interface Waiting {
  line: string;
  value: string;
  note: string;
  at: string;
}

export function queued(waiting: readonly Waiting[], more: Waiting): Waiting[] {
  return [...waiting.filter((w) => w.line !== more.line), more];
}

/** Which of the answers that were sent were refused, by their place. */
export function refusedOf(errors: readonly { pointer: string }[]): number[] {
  return errors.map((e) => Number(e.pointer.split("/")[1])).filter((k) => Number.isInteger(k));
}
