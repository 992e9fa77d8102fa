import { expect, test } from "vitest";
import { addNat, addRule, type Cell, cellWords, chosenCell, copyRule, decidesWords, few, move, type Policy, type Rule, shownRules, stepOf } from "./model";

const rule = (name: string, found = true): Rule => ({
  name,
  pointer: "",
  from_zones: ["house"],
  to_zones: ["water"],
  sources: ["any"],
  destinations: ["any"],
  services: ["ping"],
  action: "permit",
  enabled: true,
  log: false,
  note: null,
  decides: "something",
  shadowed_by: [],
  opposed_by: [],
  spares: [],
  instead: [],
  found,
});
const cell: Cell = { source: "house", target: "water", opens: "some", services: "ping", rules: [1], deciding: 1, default: "drop", kinds_fit: true };
const policy: Policy = {
  name: "gate",
  pointer: "/devices/4",
  same_zone: "permit",
  between_zones: "drop",
  zones: [],
  cells: [cell],
  rules: [rule("a"), rule("b"), rule("c", false)],
  nat: [],
};

test("rules are filtered by the chosen pair and by what is looked for, and keep their place in the order", () => {
  expect(shownRules(policy, null).map((p) => p.index)).toEqual([0, 1]);
  expect(shownRules(policy, cell).map((p) => p.index)).toEqual([1]);
  expect(chosenCell(policy, "house>water")).toBe(cell);
  expect(chosenCell(policy, "house>nowhere")).toBeNull();
});

test("a move is one operation, and none where nothing moves", () => {
  expect(move("/devices/4/rules", 2, 0)).toEqual([{ op: "move", from: "/devices/4/rules/2", path: "/devices/4/rules/0" }]);
  expect(move("/devices/4/rules", 1, 1)).toBeNull();
});

test("a new rule is off, speaks of the chosen pair, and has a name of its own", () => {
  const made = addRule({ ...policy, rules: [rule("new-rule")] }, 1, cell);
  expect(made.pointer).toBe("/devices/4/rules/1");
  expect(made.patch[0]).toMatchObject({ op: "add", path: "/devices/4/rules/1", value: { name: "new-rule-2", from: ["house"], to: ["water"], enabled: false } });
  expect(addRule({ ...policy, rules: [] }, 0, null).patch[0]).toMatchObject({ path: "/devices/4/rules", value: [{ from: ["any"] }] });
});

test("a copy stands below, switched off", () => {
  expect(copyRule(policy, 0)?.patch[0]).toMatchObject({ path: "/devices/4/rules/1", value: { name: "a-copy", services: ["ping"], enabled: false } });
  expect(copyRule(policy, 9)).toBeNull();
});

test("a new translation does what its step is for", () => {
  expect(addNat(policy, "sources").patch[0]).toMatchObject({ path: "/devices/4/nat", value: [{ name: "hide", source_to: "interface", enabled: false }] });
  expect(addNat(policy, "destinations").patch[0]).toMatchObject({ value: [{ name: "publish", destination_to: "198.18.0.1" }] });
});

test("a cell says what decides, and what becomes of the rest", () => {
  expect(cellWords(cell)).toBe("1 of 1 rule decides something; what none of them takes is dropped.");
  expect(cellWords({ ...cell, rules: [], deciding: 0, opens: "none" })).toBe("No rule speaks of it: all of it is dropped.");
  expect(cellWords({ ...cell, kinds_fit: false })).toBe("Zones of different kinds never meet.");
  expect(stepOf("nonsense")).toBe("rules");
  expect(few(["a", "b", "c", "d"])).toBe("a, b and 2 more");
});

test("a rule says what it really does", () => {
  expect(decidesWords(rule("a"))).toBeNull();
  expect(decidesWords({ ...rule("a"), decides: "nothing", shadowed_by: ["b"] })).toBe("decides nothing: b above takes it all");
  expect(decidesWords({ ...rule("a"), decides: "redundant", instead: ["the default"] })).toBe("changes nothing: the default would decide the same");
  expect(decidesWords({ ...rule("a"), decides: "unmet" })).toContain("never met");
  expect(decidesWords({ ...rule("a"), spares: ["c"] })).toBe("an exception from c below");
  expect(decidesWords({ ...rule("a"), opposed_by: ["b"] })).toBe("less than it says: b above takes some of it");
});
