import { expect, test } from "vitest";
import { beats, type Cabling, combSize, combsOf, depths, freeEnd, handsReducer, type Line, lineId, middle, nameFor, nodesOf, plugging, turned } from "./model";

const line = (ends: string[], ports: string[][], state = "up"): Line => ({
  ends,
  ports,
  kind: state === "heartbeat" ? "heartbeat" : "data",
  bundle: null,
  state,
  reason: "",
  pointers: ["/cables/0"],
  names: ["a:1--b:1"],
  failed: [],
  carried: [],
});
const box = (name: string, tier: number) => ({ name, device: name, kind: "switch", tier, standby: false, failed: false, pointer: "", jacks: [] });
const site: Cabling = {
  boxes: [box("a", 2), box("b", 2)],
  lines: [line(["a", "b"], [["7"], ["7"]], "heartbeat"), line(["a", "b"], [["8"], ["8"]], "heartbeat")],
};

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
  expect(
    middle([
      { x: 0, y: 0 },
      { x: 10, y: 0 },
      { x: 10, y: 30 },
    ]),
  ).toEqual({ x: 10, y: 10 });
  expect(middle([])).toEqual({ x: 0, y: 0 });
});

test("a box is as wide as its name and its cables need", () => {
  const many = { ...site, lines: Array.from({ length: 12 }, (_, k) => line(["a", "b"], [[`${k}`], [`${k}`]])) };
  expect(nodesOf(many)[0]?.width).toBeGreaterThan(nodesOf(site)[0]?.width ?? 0);
});

test("a part that works is failed, one that has failed is restored, and a bundle turns as one", () => {
  expect(turned([], ["a:1--b:1"])).toEqual(["a:1--b:1"]);
  expect(turned(["gate-a", "a:1--b:1"], ["a:1--b:1"])).toEqual(["gate-a"]);
  expect(turned(["a:1--b:1"], ["a:1--b:1", "a:2--b:2"])).toEqual(["a:1--b:1", "a:2--b:2"]);
});

test("hosts hang in a comb under their box where they are many, and none that has two cables", () => {
  const hosts = ["h1", "h2", "h3", "h4", "h5", "twice"].map((name) => ({ ...box(name, 5), kind: "endpoint" }));
  const lines = hosts.map((h, k) => line(["a", h.name], [[String(k)], ["1"]]));
  const wired: Cabling = { boxes: [box("a", 3), box("b", 3), ...hosts], lines: [...lines, line(["b", "twice"], [["1"], ["2"]])] };
  expect(combsOf(wired)).toEqual({ a: ["h1", "h2", "h3", "h4", "h5"] });
  expect(combsOf({ ...wired, boxes: wired.boxes.slice(0, 6) })).toEqual({});
  expect(combSize(Array.from({ length: 23 }, (_, k) => `h${k}`)).height).toBe(combSize(Array.from({ length: 10 }, (_, k) => `h${k}`)).height);
});

test("lines are led from the firewall outwards, however the boxes are named", () => {
  const far: Cabling = {
    boxes: [box("gate", 2), box("s3", 3), box("s13", 3), box("lone", 3)],
    lines: [line(["gate", "s3"], [["1"], ["1"]]), line(["s13", "s3"], [["1"], ["2"]])],
  };
  expect([...depths(far)]).toEqual([
    ["gate", 0],
    ["s3", 1],
    ["s13", 2],
  ]);
});

test("a new box gets a free name of its kind", () => {
  expect(nameFor("switch", [])).toBe("sw1");
  expect(nameFor("switch", ["sw1", "sw2"])).toBe("sw3");
  expect(nameFor("firewall", [])).toBe("gate");
  expect(nameFor("firewall", ["gate"])).toBe("gate-2");
});

test("a dragged cable ends at the first free port of a box, or at the port it was led to", () => {
  const jack = (name: string, free: boolean) => ({ name, free });
  const cabling = {
    boxes: [
      { name: "sw", jacks: [jack("1", false), jack("2", true)] },
      { name: "host", jacks: [jack("1", false)] },
    ],
    lines: [],
  } as unknown as Cabling;
  expect(freeEnd(cabling, "sw")).toBe("sw:2");
  expect(freeEnd(cabling, "sw:9")).toBe("sw:9");
  expect(freeEnd(cabling, "host")).toBeNull();
  expect(freeEnd(cabling, "gone")).toBeNull();
});
