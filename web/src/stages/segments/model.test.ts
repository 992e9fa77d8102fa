import { expect, test } from "vitest";
import { type Grid, cellsOf, columnsOf, nextCell, portListOf, selectedCells, wantedBy } from "./model";

test("letters set a cell, a click turns it", () => {
  expect(["t", "u", "x", "q"].map(wantedBy)).toEqual(["tagged", "untagged", "none", null]);
  expect(["", "tagged", "untagged"].map((s) => nextCell(s as ""))).toEqual(["tagged", "untagged", "none"]);
});

test("columns know their device, and which is its last", () => {
  const port = { kind: "port" as const, members: [], far: null, up: true, reason: "", pointer: "", note: null };
  const devices = [
    {
      name: "s",
      kind: "switch",
      pointer: "",
      ports: [
        { ...port, name: "1" },
        { ...port, name: "2" },
      ],
    },
  ];
  expect(columnsOf({ devices, rows: [] }).map((c) => [c.device, c.name, c.last])).toEqual([
    ["s", "1", false],
    ["s", "2", true],
  ]);
});

test("a stroke covers the rectangle between its ends, whichever way it is drawn", () => {
  expect(selectedCells({ row: 1, column: 2 }, { row: 0, column: 1 })).toHaveLength(4);
  expect(selectedCells(null, { row: 0, column: 0 })).toEqual([]);
});

test("only cells that change, and that are memberships, are edited", () => {
  const port = { kind: "port" as const, members: [], far: null, up: true, reason: "", pointer: "", note: null };
  const devices: Grid["devices"] = [
    {
      name: "s",
      kind: "switch",
      pointer: "",
      ports: [
        { ...port, name: "1" },
        { ...port, name: "2" },
        { ...port, name: "3", kind: "routed" },
      ],
    },
  ];
  const rows: Grid["rows"] = [{ vlan: 7, name: "v", note: null, subnets: [], pointer: "", cells: ["tagged", "", "routed"], segments: [], state: "whole" }];
  const grid = { devices, rows };
  const spots = [0, 1, 2].map((column) => ({ row: 0, column }));
  expect(cellsOf(grid, columnsOf(grid), spots, "tagged")).toEqual([{ device: "s", port: "2", vlan: 7, cell: "tagged" }]);
  expect(cellsOf(grid, columnsOf(grid), spots, "none")).toEqual([{ device: "s", port: "1", vlan: 7, cell: "none" }]);
});

test("a range is copied as a port list", () => {
  const port = { kind: "port" as const, members: [], far: null, up: true, reason: "", pointer: "", note: null };
  const ports = [
    { ...port, name: "1", note: "till" },
    { ...port, name: "2" },
    { ...port, name: "3", kind: "routed" as const },
  ];
  const row = (vlan: number, cells: string[]) => ({ vlan, cells }) as unknown as Grid["rows"][number];
  const grid: Grid = {
    devices: [{ name: "s", kind: "switch", pointer: "", ports }],
    rows: [row(10, ["untagged", "tagged", ""]), row(20, ["", "tagged", "routed"])],
  };
  const columns = columnsOf(grid);
  expect(portListOf(grid, columns, { row: 1, column: 2 }, { row: 0, column: 0 })).toBe(
    "device\tport\tpvid\tuntagged\ttagged\tnote\ns\t1\t10\t10\t\ttill\ns\t2\t\t\t10 20\t",
  );
});
