import { expect, test } from "vitest";
import { broken, type Carried, rowsOf, runs, zonesAt } from "./carried";

const vlan = (n: number, tagged = true, pvid = false, zone: string | null = null) => ({ vlan: n, tagged, pvid, zone });
const end = (...vlans: Carried["vlans"]): Carried => ({ vlans, zone: null, routed: false });

test("numbers that follow each other are one run", () => {
  expect(runs([10, 11, 12, 20, 30, 31])).toBe("10-12,20,30,31");
  expect(runs([])).toBe("");
});

test("untagged, tagged, and what comes in untagged where it is another VLAN", () => {
  expect(rowsOf(end(vlan(10, false, true), vlan(20), vlan(21)))).toEqual(["U 10", "T 20,21"]);
  expect(rowsOf(end(vlan(10, false), vlan(20, true, true)))).toEqual(["U 10", "P 20", "T 20"]);
  expect(rowsOf(undefined)).toEqual([]);
});

test("a long list breaks at its commas and is cut after three rows", () => {
  expect(broken("T 130,140,160,180")).toEqual(["T 130,140,", "  160,180"]);
  expect(broken("T 101,103,105,107,109,111,113,115")).toHaveLength(3);
});

test("zones of an end, each once", () => {
  expect(zonesAt(end(vlan(1, true, false, "b"), vlan(2, true, false, "a"), vlan(3, true, false, "b")))).toEqual(["a", "b"]);
});
