import type { Schemas } from "../../api/client";

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

export interface Node {
  id: string;
  width: number;
  height: number;
  tier: number;
}

/** Boxes wide enough for their name and for the cables that end at them. */
export function nodesOf(cabling: Cabling): Node[] {
  return cabling.boxes.map((box) => {
    const room = cabling.lines.map((l) => (l.state === "heartbeat" ? 0 : [0, 1].filter((s) => l.ends[s] === box.name).reduce((sum, s) => sum + (l.ports[s]?.join(",").length ?? 0) * 6 + 14, 0)));
    const sides = room.reduce((a, b) => a + b, 0) * (box.tier === 5 ? 1 : 0.85);
    return { id: box.name, width: Math.max(box.name.length * 7.6 + 34, sides), height: 38, tier: box.tier };
  });
}

export interface Placed {
  boxes: Record<string, { x: number; y: number; width: number; height: number }>;
  lines: Record<string, { x: number; y: number }[]>;
  width: number;
  height: number;
}

/** Heartbeats run between two boxes of one row: straight from side to side, one under the other. */
export function beats(cabling: Cabling, boxes: Placed["boxes"]): Placed["lines"] {
  const lines: Placed["lines"] = {};
  for (const [k, line] of cabling.lines.filter((l) => l.state === "heartbeat").entries()) {
    const [a, b] = line.ends.map((e) => boxes[e]);
    if (!a || !b) continue;
    const leftFirst = a.x <= b.x;
    const y = (box: { y: number }) => box.y + 11 + (k % 3) * 11;
    const ends = leftFirst ? [{ x: a.x + a.width, y: y(a) }, { x: b.x, y: y(b) }] : [{ x: a.x, y: y(a) }, { x: b.x + b.width, y: y(b) }];
    lines[lineId(line)] = ends;
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
};
