import { expect, test } from "vitest";
import { type Data, type Leg, platesOf, rowsUnder, zonesDrawn } from "./segments";

const segment = (name: string, more: Partial<Data["segments"][number]> = {}) => ({
  name,
  kind: "vlan",
  vlans: [10],
  subnets: ["10.1.0.0/24"],
  tier: 1,
  pointer: "/vlans/0",
  ...more,
});
const leg = (router: string, where: string, zone: string | null = null, more: Partial<Leg> = {}): Leg => ({
  router,
  segment: where,
  interface: `to-${where}`,
  addresses: ["10.1.0.1/24"],
  zone,
  vrf: "main",
  up: true,
  reason: "",
  pointer: "/devices/0/ports/0",
  ...more,
});
const site = (segments: Data["segments"], legs: Leg[], filtered: string[][] = []): Data => ({
  routers: [{ name: "gate", kind: "firewall", tier: 0, pointer: "/devices/0" }],
  segments,
  legs,
  filtered,
});

test("zones are told once, in order", () => {
  expect(zonesDrawn(site([segment("a")], [leg("gate", "a", "tills"), leg("gate", "b", "house"), leg("x", "a", "tills"), leg("y", "a")]))).toEqual([
    "house",
    "tills",
  ]);
});

test("a segment says its VLAN and subnets, then who stands in it and by which address", () => {
  const data = site([segment("a", { subnets: ["10.1.0.0/24", "fd00::/64"] })], [leg("gate", "a", "house"), leg("lab", "a", null, { addresses: [] })]);
  expect(rowsUnder(data, "a").map((r) => r.text)).toEqual(["VLAN 10 · 10.1.0.0/24", "fd00::/64", "gate 10.1.0.1", "lab no address"]);
  expect(rowsUnder(data, "nowhere")).toEqual([]);
});

test.each<[Partial<Data["segments"][number]>, string]>([
  [{ vlans: [], kind: "transit" }, "between routers · 10.1.0.0/24"],
  [{ vlans: [], kind: "line", subnets: [] }, "no VLAN · no subnet"],
  [{ vlans: [10, 20] }, "VLAN 10, 20 · 10.1.0.0/24"],
])("what it says where something lacks: %o", (more, text) => {
  expect(rowsUnder(site([segment("a", more)], []), "a")[0]?.text).toBe(text);
});

test("segments that one box alone stands in are stacked, others stand by themselves", () => {
  const names = ["a", "b", "c", "between", "apart", "cut"];
  const legs = ["a", "b", "c", "cut"].map((n) => leg("gate", n)).concat([leg("gate", "between"), leg("lab", "between")]);
  const groups = platesOf(
    site(
      names.map((n) => segment(n)),
      legs,
      [["cut", "apart"]],
    ),
  );
  expect(groups.map((g) => [g.id, g.plates.map((p) => p.name)])).toEqual([
    ["stack gate", ["a", "b", "c"]],
    ["segment between", ["between"]],
    ["segment apart", ["apart"]],
    ["segment cut", ["cut"]],
  ]);
});

test.each([1, 2, 5, 12, 60])("%d plates of a stack lie inside it, none over another", (count) => {
  const names = Array.from({ length: count }, (_, k) => `s${k}`);
  const [group] = platesOf(
    site(
      names.map((n, k) => segment(n, { subnets: Array.from({ length: 1 + (k % 3) }, (_, i) => `10.${k}.${i}.0/24`) })),
      names.map((n) => leg("gate", n)),
    ),
  );
  expect(group?.plates).toHaveLength(count);
  for (const [k, one] of (group?.plates ?? []).entries()) {
    expect(one.x + one.width).toBeLessThanOrEqual(group?.width ?? 0);
    expect(one.y + one.height).toBeLessThanOrEqual(group?.height ?? 0);
    for (const two of group?.plates.slice(k + 1) ?? []) {
      const beside = one.x + one.width <= two.x || two.x + two.width <= one.x;
      expect(beside || one.y + one.height <= two.y || two.y + two.height <= one.y).toBe(true);
    }
  }
});
