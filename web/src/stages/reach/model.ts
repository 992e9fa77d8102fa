import type { Schemas } from "../../api/client";

export type Matrix = Schemas["Matrix"];
export type Pair = Schemas["PairView"];
export type Profile = Schemas["Profile"];

export interface ZoneRun {
  zone: string | null;
  count: number;
}

/** Neighbouring segments of one zone, as runs over the axis. */
export function zoneRuns(matrix: Matrix): ZoneRun[] {
  const runs: ZoneRun[] = [];
  for (const s of matrix.segments) {
    const last = runs.at(-1);
    if (last && last.zone === (s.zone ?? null)) last.count += 1;
    else runs.push({ zone: s.zone ?? null, count: 1 });
  }
  return runs;
}

/** Tell whether a segment is the first of its zone on the axis. */
export function startsZone(matrix: Matrix, index: number): boolean {
  return index > 0 && matrix.segments[index]?.zone !== matrix.segments[index - 1]?.zone;
}

/** What a cell says in words. */
export function cellWords(from: string, to: string, cell: Schemas["MatrixCell"]): string {
  const what = cell.verdict === "all" ? "everything passes" : cell.verdict === "some" ? "some flows pass" : "nothing passes";
  const why =
    cell.verdict === "all"
      ? ""
      : `; ${cell.verdict === "some" ? "the rest is stopped" : "stopped"} at layer ${cell.layer ?? "?"}${cell.reason ? `: ${cell.reason}` : ""}`;
  const hours = cell.sometimes ? "; more at some time than at any time" : "";
  return `${from} to ${to}: ${what}${why}${hours}`;
}

/** The pair to show while nobody has chosen one: the first that is broken, else the first that passes in part. */
export function tellingPair(matrix: Matrix): { from: string; to: string } | null {
  for (const wanted of [(c: Schemas["MatrixCell"]) => c.tone === "broken", (c: Schemas["MatrixCell"]) => c.verdict === "some"]) {
    for (const [a, row] of matrix.cells.entries()) {
      const b = row.findIndex((cell) => cell && wanted(cell));
      const [from, to] = [matrix.segments[a]?.name, matrix.segments[b]?.name];
      if (b >= 0 && from && to) return { from, to };
    }
  }
  return null;
}

export interface Spot {
  x: number;
  y: number;
  point: Profile["points"][number];
}

export interface Band {
  device: string;
  from: number;
  to: number;
}

/** Place the points of one way: hops along, layers up (`height` px in all); the way back runs from right to left. */
export function layOut(profile: Profile, width: number, height: number, levels: number, backwards: boolean): { spots: Spot[]; bands: Band[] } {
  const count = profile.points.length;
  const gap = width / Math.max(count, 1);
  const spots = profile.points.map((point, k) => {
    const along = gap * (k + 0.5);
    return { x: backwards ? width - along : along, y: height * (1 - point.level / (levels - 1)), point };
  });
  const bands: Band[] = [];
  for (const { x, point } of spots) {
    const last = bands.at(-1);
    const [from, to] = [x - gap / 2, x + gap / 2];
    if (last && last.device === point.device) {
      last.from = Math.min(last.from, from);
      last.to = Math.max(last.to, to);
    } else bands.push({ device: point.device, from, to });
  }
  return { spots, bands };
}

/** Where the label of a point goes so that it does not lie on the line: over a hill, under a valley, beside a slope. */
export function labelPlace(spots: Spot[], k: number, mirrored = false): { x: number; y: number; textAnchor: "start" | "middle" } {
  const here = spots[k] ?? { x: 0, y: 0 };
  const near = [spots[k - 1], spots[k + 1]].filter((s) => s !== undefined);
  const left = near.find((s) => s.x < here.x)?.y ?? here.y;
  const right = near.find((s) => s.x > here.x)?.y ?? here.y;
  if (left > here.y && right < here.y) return { x: here.x + 7, y: here.y + 11, textAnchor: "start" };
  if (left < here.y && right > here.y) return { x: here.x + 7, y: here.y - 3, textAnchor: "start" };
  const below = left < here.y || right < here.y || (mirrored && left === here.y && right === here.y);
  return { x: here.x, y: here.y + (below ? 15 : -8), textAnchor: "middle" };
}

/** A line through the points with level treads, so that it reads as steps and not as a curve. */
export function pathOf(spots: Spot[]): string {
  return spots.map((s, k) => (k === 0 ? `M${s.x} ${s.y}` : `L${s.x} ${s.y}`)).join("");
}

/** Where the matrix is as CSV, for the question that is asked. */
export function csvOf(
  design: string,
  place: { question: { service: string | null; family: 4 | 6 | null; asOf: string | null }; transits: boolean },
  form: "csv" | "svg" = "csv",
): string {
  const search = new URLSearchParams();
  if (place.question.service) search.set("service", place.question.service);
  if (place.question.family) search.set("family", String(place.question.family));
  if (place.question.asOf) search.set("as_of", place.question.asOf);
  if (place.transits) search.set("transits", "true");
  const text = search.toString();
  return `/api/designs/${design}/views/matrix.${form}${text ? `?${text}` : ""}`;
}

/** A packet as a person writes it: `from to service`, the service left out = ping; null while an end is missing. */
export function packetOf(from: string, to: string, service: string): { from: string; to: string; service: string } | null {
  const [a, b] = [from.trim(), to.trim()];
  return a && b ? { from: a, to: b, service: service.trim() || "ping" } : null;
}

/** What is said of a segment whose hosts do not all reach each other. */
export const INSIDE_WORDS: Record<Matrix["segments"][number]["inside"], string> = {
  all: "",
  alone: "",
  some: "some of its hosts are kept apart",
  none: "its hosts are kept apart",
};

/** Which pairs the last run of tests has proved, and which it has shown to be otherwise, as `from>to`. */
export function provedOf(found: { proved: { [key: string]: string }[]; wrong: { [key: string]: string }[] } | undefined): Map<string, "proved" | "wrong"> {
  const key = (p: { [key: string]: string }) => `${p.from}>${p.to}`;
  return new Map([...(found?.proved ?? []).map((p) => [key(p), "proved"] as const), ...(found?.wrong ?? []).map((p) => [key(p), "wrong"] as const)]);
}

export const PROVED_WORDS = { proved: "; proved by the last test run", wrong: "; the last test run saw otherwise", open: "" } as const;
