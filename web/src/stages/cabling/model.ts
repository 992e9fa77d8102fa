import type { Schemas } from "../../api/client";
import { lettersAt } from "./carried";

export type Cabling = Schemas["Cabling"];
export type Box = Schemas["CabledBox"];
export type Jack = Schemas["Jack"];
export type Line = Schemas["CableLine"];

/** What the hands are doing. */
export type Hands =
  | { kind: "empty" }
  | { kind: "box"; box: string }
  | { kind: "line"; line: string }
  /** One end of a new cable is plugged in; `replaces` is the cable whose other end is being moved. */
  | { kind: "cable"; from: string; replaces: string | null };

export type Act =
  | { type: "box-picked"; box: string }
  | { type: "line-picked"; line: string }
  | { type: "end-plugged"; from: string; replaces: string | null }
  | { type: "dropped" };

export function handsReducer(hands: Hands, act: Act): Hands {
  switch (act.type) {
    case "box-picked":
      return hands.kind === "cable" ? hands : { kind: "box", box: act.box };
    case "line-picked":
      return { kind: "line", line: act.line };
    case "end-plugged":
      return { kind: "cable", from: act.from, replaces: act.replaces };
    case "dropped":
      return { kind: "empty" };
  }
}

export function lineId(line: Line): string {
  return `${line.ends[0]}:${line.ports[0]?.join(",")}--${line.ends[1]}:${line.ports[1]?.join(",")}`;
}

/** The edit that plugs a cable in, or moves one: in the place of the old one, so that its pointer stays. */
export function plugging(from: string, to: string, replaces: string | null) {
  return replaces === null ? [{ op: "add", path: "/cables/-", value: [from, to] }] : [{ op: "replace", path: replaces, value: [from, to] }];
}

/** The end that a box or a box:port stands for: a box by its first free port; null where it has none. */
export function freeEnd(cabling: Cabling, end: string): string | null {
  if (end.includes(":")) return end;
  const jack = cabling.boxes.find((b) => b.name === end)?.jacks.find((j) => j.free);
  return jack ? `${end}:${jack.name}` : null;
}

/** Fail parts that work; where all of them have failed, restore them. */
export function turned(failed: string[], parts: string[]): string[] {
  const rest = failed.filter((f) => !parts.includes(f));
  return parts.every((p) => failed.includes(p)) ? rest : [...rest, ...parts];
}

/** The endpoints that hang from one box, by that box: drawn as a comb under it where the site is large or they are many. */
export function combsOf(cabling: Cabling): Record<string, string[]> {
  const kind = new Map(cabling.boxes.map((b) => [b.name, b.kind]));
  const many = cabling.boxes.length > 24;
  const combs: Record<string, string[]> = {};
  for (const box of cabling.boxes.filter((b) => b.kind === "endpoint")) {
    const [line, ...more] = cabling.lines.filter((l) => l.ends.includes(box.name));
    const owner = line?.ends.find((e) => e !== box.name);
    if (owner && more.length === 0 && kind.get(owner) !== "endpoint") (combs[owner] ??= []).push(box.name);
  }
  return Object.fromEntries(Object.entries(combs).filter(([, hosts]) => hosts.length > (many ? 1 : 4)));
}

/** A comb: where its teeth stand, in a frame of its own; a spine a column of ten. */
export const TOOTH = { height: 24, step: 29, arm: 30, column: 10, top: 10 };

export function combSize(hosts: string[]): { width: number; height: number; column: number } {
  const column = Math.max(...hosts.map((h) => h.length)) * 7 + 34 + TOOTH.arm + 14;
  return { column, width: column * Math.ceil(hosts.length / TOOTH.column), height: TOOTH.top + Math.min(hosts.length, TOOTH.column) * TOOTH.step };
}

export interface Node {
  id: string;
  width: number;
  height: number;
  tier: number;
}

/** A site of many boxes climbs from left to right, so that its names stay readable and one scrolls down it; a small one from the top down. */
export function runsAcross(cabling: Cabling): boolean {
  return cabling.boxes.length > 24;
}

/** Boxes wide enough for their name and for the cables that end at them (tall enough, where the site runs across). */
export function nodesOf(cabling: Cabling, combed: ReadonlySet<string> = new Set(), told = false): Node[] {
  const across = runsAcross(cabling);
  const lines = cabling.lines.filter((l) => !isBeside(l) && !l.ends.some((e) => combed.has(e)));
  return cabling.boxes
    .filter((b) => !combed.has(b.name))
    .map((box) => {
      const ends = lines.flatMap((l) => [0, 1].filter((s) => l.ends[s] === box.name).map((s) => lettersAt(l, s, told)));
      const named = box.name.length * 7.6 + 34;
      if (across) return { id: box.name, width: named, height: Math.max(38, ends.length * (told ? 34 : 12)), tier: box.tier };
      const sides = told
        ? (Math.max(0, ...ends) * 5.8 + 14) * Math.ceil(ends.length * 0.8)
        : ends.reduce((sum, letters) => sum + letters * 6 + 18, 0) * (box.tier === 5 ? 1 : 0.85);
      const longest = told ? 0 : Math.max(0, ...ends) * 12; // a label begins at its line, in the middle of the box
      return { id: box.name, width: Math.max(named, sides, longest), height: 38, tier: box.tier };
    });
}

/** How many cables away from the top of the site each box is: lines are led from the near to the far. */
export function depths(cabling: Cabling): Map<string, number> {
  const tier = new Map(cabling.boxes.map((b) => [b.name, b.tier]));
  const top = Math.min(...tier.values());
  const depth = new Map(cabling.boxes.filter((b) => b.tier <= 2 || b.tier === top).map((b) => [b.name, 0]));
  let rim = [...depth.keys()];
  while (rim.length > 0) {
    const next: string[] = [];
    for (const line of cabling.lines.filter((l) => l.kind !== "overlay"))
      for (const [a = "", b = ""] of [line.ends, [...line.ends].reverse()])
        if (rim.includes(a) && !depth.has(b)) {
          depth.set(b, (depth.get(a) ?? 0) + 1);
          next.push(b);
        }
    rim = next;
  }
  return depth;
}

export interface Placed {
  boxes: Record<string, { x: number; y: number; width: number; height: number }>;
  lines: Record<string, { x: number; y: number }[]>;
  /** Lines that are teeth of a comb. */
  teeth: string[];
  width: number;
  height: number;
}

/** Lines that lead between boxes of one kind beside what the drawing climbs by: no layer of it follows from them. */
export function isBeside(line: Pick<Line, "kind">): boolean {
  return line.kind === "heartbeat" || line.kind === "overlay";
}

/** Heartbeats, and what is joined by an overlay, run between two boxes of one row (or column): straight from side to side, one beside the other. */
export function beats(cabling: Cabling, boxes: Placed["boxes"]): Placed["lines"] {
  const lines: Placed["lines"] = {};
  for (const [k, line] of cabling.lines.filter(isBeside).entries()) {
    const [a, b] = line.ends.map((e) => boxes[e]);
    if (!a || !b) continue;
    const step = 11 + (k % 3) * 11;
    const stacked = Math.abs(a.x - b.x) < Math.abs(a.y - b.y);
    const [from, to] = (stacked ? a.y <= b.y : a.x <= b.x) ? [a, b] : [b, a];
    const points = stacked
      ? [
          { x: from.x + step, y: from.y + from.height },
          { x: to.x + step, y: to.y },
        ]
      : [
          { x: from.x + from.width, y: from.y + step },
          { x: to.x, y: to.y + step },
        ];
    lines[lineId(line)] = from === a ? points : points.reverse();
  }
  return lines;
}

/** The middle of a polyline, by length: where the sign of a line stands. */
export function middle(points: { x: number; y: number }[]): { x: number; y: number } {
  const legs = points.slice(1).map((p, k) => Math.hypot(p.x - (points[k]?.x ?? 0), p.y - (points[k]?.y ?? 0)));
  let left = legs.reduce((a, b) => a + b, 0) / 2;
  for (const [k, leg] of legs.entries()) {
    const [a, b] = [points[k], points[k + 1]];
    if (!a || !b) break;
    if (left <= leg) return { x: a.x + ((b.x - a.x) * left) / (leg || 1), y: a.y + ((b.y - a.y) * left) / (leg || 1) };
    left -= leg;
  }
  return points[0] ?? { x: 0, y: 0 };
}

export const STATE_WORDS: Record<string, string> = {
  up: "up",
  down: "down",
  part: "a bundle with members missing",
  blocked: "blocked by the spanning tree",
  standby: "leads to the unit that stands by",
  inline: "inline pair",
  heartbeat: "heartbeat",
  wireless: "in the air",
  tunnel: "tunnel",
  overlay: "overlay",
};

/** What a line looks like: its state; what is up and no cable is drawn as what it is. */
export function lookOf(line: Pick<Line, "kind" | "state">): string {
  return ["wireless", "tunnel", "overlay"].includes(line.kind) && line.state === "up" ? line.kind : line.state;
}

export const BOX_KINDS = ["switch", "firewall", "router", "access-point", "outside", "endpoint", "hub"] as const;
export type BoxKind = (typeof BOX_KINDS)[number];

/** How ports are called where nobody says otherwise. */
export const PORTS_FOR: Record<BoxKind, string> = {
  switch: "1-24",
  firewall: "1-8",
  router: "1-4",
  "access-point": "1",
  outside: "",
  endpoint: "",
  hub: "1-4",
};

const CALLED: Record<BoxKind, string> = {
  switch: "sw",
  firewall: "gate",
  router: "router",
  "access-point": "ap",
  outside: "internet",
  endpoint: "host",
  hub: "hub",
};

/** What a kind of box is called. */
export function kindWord(kind: string): string {
  return kind === "endpoint" ? "host" : kind.replace("-", " ");
}

/** A name for a new box that is free. */
export function nameFor(kind: BoxKind, names: string[]): string {
  const base = CALLED[kind];
  const counted = kind === "switch" || kind === "endpoint" || kind === "access-point";
  if (!counted && !names.includes(base)) return base;
  for (let k = counted ? 1 : 2; ; k++) {
    const name = counted ? `${base}${k}` : `${base}-${k}`;
    if (!names.includes(name)) return name;
  }
}
