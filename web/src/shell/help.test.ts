import { expect, test } from "vitest";
import { closedHints, HELP } from "./help";
import { STAGES } from "./stages";

test("every stage has three lines and a page", () => {
  for (const stage of STAGES) expect(HELP[stage].lines.every((l) => l.endsWith(".") && l.length < 120)).toBe(true);
});

test("what was kept of closed hints is read with care", () => {
  expect(closedHints(null)).toEqual([]);
  expect(closedHints("{odd")).toEqual([]);
  expect(closedHints('["reach", 3]')).toEqual(["reach"]);
});
