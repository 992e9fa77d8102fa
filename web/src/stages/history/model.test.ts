import { expect, test } from "vitest";
import type { Schemas } from "../../api/client";
import { type Comparison, inShort, placeOf, statesOf, usual } from "./model";

const revision = (number: number, version: number): Schemas["Revision"] => ({
  number,
  version,
  reason: "tills moved",
  forced: null,
  failing: [],
  author: "Edda",
  at: "2026-06-01T12:00:00Z",
});
const change = (kind: Schemas["Change"]["kind"]): Schemas["Change"] => ({
  kind,
  source: "a",
  target: "b",
  now: ["a", "b"],
  gained: [],
  lost: [],
  folded: false,
});
const comparison = (over: Partial<Comparison["consequences"]>, differences: Comparison["differences"] = []): Comparison => ({
  differences,
  edits: [],
  consequences: { opened: [], closed: [], changed: [], split: [], joined: [], broken: [], mended: [], cut_off: [], ...over },
  unchanged: 12,
  come: [],
  gone: [],
});

test("the draft stands first and says how far it is from what is published", () => {
  expect(statesOf({ version: 7 }, []).map((s) => s.about)).toEqual(["nothing is published yet"]);
  expect(statesOf({ version: 7 }, [revision(2, 6), revision(1, 1)]).map((s) => s.words)).toEqual(["draft", "revision 2", "revision 1"]);
  expect(statesOf({ version: 7 }, [revision(2, 6)])[0]?.about).toBe("1 edit since revision 2");
  expect(statesOf({ version: 6 }, [revision(2, 6)])[0]?.about).toBe("as published in revision 2");
});

test("a what-if is compared with the design it came from", () => {
  expect(usual([revision(2, 6)], "abc")).toEqual(["design abc", "draft"]);
  expect(usual([revision(2, 6)], null)).toEqual(["revision 2", "draft"]);
  expect(usual([], null)).toEqual([null, "draft"]);
});

test("a comparison in one line", () => {
  expect(inShort(comparison({}))).toBe("Written alike; no pair reaches anything else, 12 as before");
  const one = { sign: "changed" as const, kind: "Rule", title: "gate x", words: [], before: "/a", now: "/a" };
  expect(inShort(comparison({ opened: [change("opened")], closed: [change("closed"), change("closed")] }, [one]))).toBe(
    "1 thing differs; 1 pair opened, 2 pairs closed, 12 as before",
  );
});

test("a difference is filed under its device", () => {
  const at = (now: string, title: string) => placeOf({ sign: "changed", kind: "", title, words: [], before: null, now });
  expect(at("/devices/4/rules/2", "gate keepers")).toBe("gate");
  expect(at("/vlans/2", "130 keepers")).toBe("VLAN plan");
  expect(at("", "Tidewrack")).toBe("Design");
});
