import { expect, test } from "vitest";
import { columnsOf, nextCell, step, wantedBy } from "./model";

test("arrows move inside the grid", () => {
  expect(step({ row: 0, column: 0 }, "ArrowLeft", 3, 4)).toEqual({ row: 0, column: 0 });
  expect(step({ row: 2, column: 1 }, "ArrowDown", 3, 4)).toEqual({ row: 2, column: 1 });
  expect(step({ row: 1, column: 1 }, "End", 3, 4)).toEqual({ row: 1, column: 3 });
  expect(step({ row: 1, column: 1 }, "a", 3, 4)).toBeNull();
});

test("letters set a cell, a click turns it", () => {
  expect(["t", "u", "x", "q"].map(wantedBy)).toEqual(["tagged", "untagged", "none", null]);
  expect(["", "tagged", "untagged"].map((s) => nextCell(s as ""))).toEqual(["tagged", "untagged", "none"]);
});

test("columns know their device, and which is its last", () => {
  const port = { kind: "port", members: [], far: null, up: true, reason: "", pointer: "", note: null };
  const devices = [{ name: "s", kind: "switch", pointer: "", ports: [{ ...port, name: "1" }, { ...port, name: "2" }] }];
  expect(columnsOf({ devices, rows: [] }).map((c) => [c.device, c.name, c.last])).toEqual([
    ["s", "1", false],
    ["s", "2", true],
  ]);
});
