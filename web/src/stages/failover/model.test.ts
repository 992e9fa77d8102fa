import { expect, test } from "vitest";
import { activeUnits, cost, dead, type Drill, duration, type Event, facts, kept, layOut, type Moment, type Pair, type PortRow, turn } from "./model";

const row: PortRow = {
  port: "1",
  bundle: null,
  mode: "routed",
  far: ["street:1", "street:2"],
  cables: ["a:1--street:1", null],
  up: [true, true],
  watched: true,
  heartbeat: false,
  alike: true,
  pointer: "",
};
const moment = (at_ms: number, lost = 0): Moment => ({
  at_ms,
  what: "fault",
  words: "",
  lost: Array.from({ length: lost }, () => ({ source: "x", target: "y", whole: true })),
  broken: [],
});

test("a part fails, and is restored by failing it again", () => {
  expect(turn(["a"], "b")).toEqual(["a", "b"]);
  expect(turn(["a", "b"], "a")).toEqual(["b"]);
});

test("a side is dead by its unit, its port or its cable", () => {
  expect(dead(["a"], "a", row, 0)).toBe(true);
  expect(dead(["a:1"], "a", row, 0)).toBe(true);
  expect(dead(["a:1--street:1"], "a", row, 0)).toBe(true);
  expect(dead(["a"], "b", row, 1)).toBe(false);
});

test("moments fill the line, the first from its beginning", () => {
  const marks = layOut([moment(0, 3), moment(3000)], 400);
  expect(marks[0]?.x).toBe(0);
  expect(Math.round(marks.reduce((sum, m) => sum + m.width, 0))).toBe(400);
});

test("costs and times in words", () => {
  expect(cost(moment(0))).toBe("nothing is lost");
  expect(cost(moment(0, 1))).toBe("1 pair loses flows");
  expect([null, 0, 900, 3000].map(duration)).toEqual(["not noticed", "at once", "900 ms", "3 s"]);
});

test("both units of a split brain are active", () => {
  const event = { standings: [{ election: { active: ["a", "b"] } }] } as unknown as Event;
  expect(activeUnits(event)).toEqual(["a", "b"]);
});

test("only steps with something seen are kept, as one edit", () => {
  const step: Drill["steps"][number] = {
    name: "plug",
    kind: "plug",
    do: "",
    fail: [],
    active: ["b"],
    within_ms: 3000,
    sessions: "kept",
    measure: "",
    lost: [],
    why: "",
  };
  const patch = kept({ pointer: "/devices/4" } as Pair, "2026-11-25", "", [step, { ...step, name: "return" }], { plug: "2.8 s" }, false);
  expect(patch).toEqual([
    {
      op: "add",
      path: "/devices/4/failover/drills/-",
      value: { at: "2026-11-25", results: [{ step: "plug", expected: "b active, 3 s; sessions kept", seen: "2.8 s" }] },
    },
  ]);
});

test("a unit is told by what both must share, its own address and its priority", () => {
  const unit = { name: "a", priority: 150, traits: { model: "M2", storage_gb: 240 }, address: null } as unknown as Pair["units"][number];
  expect(facts(unit)).toEqual([
    ["model", "M2"],
    ["storage_gb", "240"],
    ["priority", "150"],
  ]);
  expect(facts({ ...unit, address: "10.64.99.2/24" }).map(([what]) => what)).toEqual(["model", "storage_gb", "address", "priority"]);
  expect(facts({ ...unit, traits: {} })).toEqual([["priority", "150"]]);
});
