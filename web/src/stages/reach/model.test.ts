import { describe, expect, it, test } from "vitest";
import { cellWords, labelPlace, layOut, type Matrix, startsZone, tellingPair, zoneRuns, provedOf } from "./model";

type Cell = NonNullable<Matrix["cells"][number][number]>;
const segment = (name: string, zone: string | null): Matrix["segments"][number] => ({
  name,
  zone,
  kind: "vlan",
  subnets: [],
  vlan_ids: [],
  island: false,
  inside: "all",
  pointer: "",
});
const cell = (verdict: Cell["verdict"], tone: Cell["tone"], layer: Cell["layer"] = null): Cell => ({
  verdict,
  tone,
  layer,
  reason: "because",
  sometimes: false,
});
const matrix: Matrix = {
  scheduled: false,
  segments: [segment("a", "in"), segment("b", "in"), segment("c", null)],
  cells: [
    [null, cell("all", "open"), cell("some", "open", "rule")],
    [cell("none", "closed", "rule"), null, cell("none", "apart", "gateway")],
    [cell("none", "apart", "gateway"), cell("none", "apart", "gateway"), null],
  ],
};

test("neighbours of one zone are one run", () => {
  expect(zoneRuns(matrix)).toEqual([
    { zone: "in", count: 2 },
    { zone: null, count: 1 },
  ]);
  expect([0, 1, 2].map((k) => startsZone(matrix, k))).toEqual([false, false, true]);
});

test("with nothing chosen, what is broken comes first, else what passes in part", () => {
  expect(tellingPair(matrix)).toEqual({ from: "a", to: "c" });
  const broken = { ...matrix, cells: [...matrix.cells.slice(0, 2), [cell("none", "broken", "vlan"), null, null]] };
  expect(tellingPair(broken)).toEqual({ from: "c", to: "a" });
});

test("a cell speaks", () => {
  expect(cellWords("a", "b", cell("all", "open"))).toBe("a to b: everything passes");
  expect(cellWords("a", "b", cell("none", "closed", "rule"))).toBe("a to b: nothing passes; stopped at layer rule: because");
});

test("a way is laid out by hop and layer, the way back mirrored", () => {
  const points = ["one", "two", "two", "three"].map((device, level) => ({
    device,
    level,
    stage: "cable" as const,
    text: "",
    label: "",
    pointer: "",
    stopped: false,
  }));
  const profile = { outcome: "delivered" as const, layer: null, reason: "", decided_by: [], points };
  const there = layOut(profile, 400, 90, 4, false);
  expect(there.spots.map((s) => s.x)).toEqual([50, 150, 250, 350]);
  expect(there.spots.map((s) => Math.round(s.y))).toEqual([90, 60, 30, 0]);
  expect(there.bands).toEqual([
    { device: "one", from: 0, to: 100 },
    { device: "two", from: 100, to: 300 },
    { device: "three", from: 300, to: 400 },
  ]);
  expect(layOut(profile, 400, 90, 4, true).spots.map((s) => s.x)).toEqual([350, 250, 150, 50]);
  expect(labelPlace(there.spots, 1)).toMatchObject({ textAnchor: "start" });
  expect(labelPlace(there.spots, 3).y).toBeLessThan(0);
});

describe("what a test run has proved", () => {
  it("is told by pair; what was seen otherwise counts more", () => {
    const found = provedOf({
      proved: [
        { from: "a", to: "b" },
        { from: "b", to: "a" },
      ],
      wrong: [{ from: "b", to: "a" }],
    });
    expect([...found]).toEqual([
      ["a>b", "proved"],
      ["b>a", "wrong"],
    ]);
    expect(provedOf(undefined).size).toBe(0);
  });
});
