import { expect, test } from "vitest";
import { draftOf, emptyVlan, type VlanForm } from "./newVlan";

const row = (vlan: number) => ({ vlan, name: `v${vlan}`, note: null, subnets: [], pointer: "", cells: [], segments: [], state: "whole" as const });
const form: VlanForm = { id: "125", name: " rays ", subnet: "10.64.125.0/24", uplinks: ["s:up"], ports: [], gateway: null, zone: null };

test("the first id offered follows the plan's usual ones, and is free", () => {
  expect(emptyVlan({ devices: [], rows: [row(110), row(120), row(999)] }).id).toBe("130");
  expect(emptyVlan({ devices: [], rows: [row(110), row(120), row(130), row(140)] }).id).toBe("150");
  expect(emptyVlan({ devices: [], rows: [] }).id).toBe("10");
});

test("nothing is asked while an id or a name is missing", () => {
  expect(draftOf({ ...form, name: "  " })).toBeNull();
  expect(draftOf({ ...form, id: "" })).toBeNull();
  expect(draftOf({ ...form, id: "12a" })).toBeNull();
});

test("what is typed is tidied, and an empty subnet means none", () => {
  expect(draftOf(form)).toMatchObject({ id: 125, name: "rays", subnet: "10.64.125.0/24", uplinks: ["s:up"] });
  expect(draftOf({ ...form, subnet: " " })?.subnet).toBeNull();
});
