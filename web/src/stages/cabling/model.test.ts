import { expect, test } from "vitest";
import { beats, type Cabling, handsReducer, type Line, lineId, middle, nodesOf, plugging } from "./model";

const line = (ends: string[], ports: string[][], state = "up"): Line => ({ ends, ports, bundle: null, state, reason: "", pointers: ["/cables/0"] });
const box = (name: string, tier: number) => ({ name, device: name, kind: "switch", tier, standby: false, pointer: "", jacks: [] });
const site: Cabling = { boxes: [box("a", 2), box("b", 2)], lines: [line(["a", "b"], [["7"], ["7"]], "heartbeat"), line(["a", "b"], [["8"], ["8"]], "heartbeat")] };

test("a cable in the hand does not let go by a click on a box", () => {
  const held = handsReducer({ kind: "empty" }, { type: "end-plugged", from: "a:1", replaces: null });
  expect(handsReducer(held, { type: "box-picked", box: "b" })).toBe(held);
  expect(handsReducer(held, { type: "dropped" })).toEqual({ kind: "empty" });
  expect(handsReducer({ kind: "empty" }, { type: "box-picked", box: "b" })).toEqual({ kind: "box", box: "b" });
});

test("plugging in adds a cable, moving one keeps its place", () => {
  expect(plugging("a:1", "b:2", null)).toEqual([{ op: "add", path: "/cables/-", value: ["a:1", "b:2"] }]);
  expect(plugging("a:1", "b:2", "/cables/4")).toEqual([{ op: "replace", path: "/cables/4", value: ["a:1", "b:2"] }]);
});

test("heartbeats run from side to side, each at its own height", () => {
  const lines = beats(site, { a: { x: 0, y: 0, width: 50, height: 38 }, b: { x: 100, y: 0, width: 50, height: 38 } });
  const [first, second] = site.lines.map((l) => lines[lineId(l)]);
  expect(first?.map((p) => p.x)).toEqual([50, 100]);
  expect(first?.[0]?.y).not.toBe(second?.[0]?.y);
});

test("the middle of a line is half its way along", () => {
  expect(middle([{ x: 0, y: 0 }, { x: 10, y: 0 }, { x: 10, y: 30 }])).toEqual({ x: 10, y: 10 });
  expect(middle([])).toEqual({ x: 0, y: 0 });
});

test("a box is as wide as its name and its cables need", () => {
  const many = { ...site, lines: Array.from({ length: 12 }, (_, k) => line(["a", "b"], [[`${k}`], [`${k}`]])) };
  expect(nodesOf(many)[0]?.width).toBeGreaterThan(nodesOf(site)[0]?.width ?? 0);
});
