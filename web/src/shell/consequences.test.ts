import { expect, test } from "vitest";
import type { Schemas } from "../api/client";
import { shown } from "./consequences";

const change = (kind: Schemas["Change"]["kind"], folded = false): Schemas["Change"] => ({
  kind,
  source: "a",
  target: "b",
  now: ["a", "b"],
  gained: [],
  lost: [],
  folded,
});
const nothing: Schemas["Consequences"] = { opened: [], closed: [], changed: [], split: [], joined: [], broken: [], mended: [], cut_off: [] };

test("nothing changed, nothing said", () => {
  expect(shown(nothing)).toEqual([]);
  expect(shown({ ...nothing, closed: [change("closed", true)] })).toEqual([]);
});

test("pairs are counted in words, transit pairs left out", () => {
  const groups = shown({ ...nothing, opened: [change("opened")], closed: [change("closed"), change("closed"), change("closed", true)] });
  expect(groups.map((g) => g.words)).toEqual(["1 pair opened", "2 pairs closed"]);
});

test("islands and joins are named", () => {
  const groups = shown({
    ...nothing,
    split: [
      { whole: "keepers", parts: ["keepers@a", "keepers@b"] },
      { whole: "lab", parts: ["lab", "rays"] },
    ],
    joined: [{ whole: "lab", parts: ["p", "q"] }],
  });
  expect(groups.map((g) => g.words)).toEqual(["keepers fell into 2 islands", "part of lab is now rays", "p and q became one segment"]);
});

test("expectations that broke come first", () => {
  expect(shown({ ...nothing, broken: ["visitors never touch pumps"] })[0]).toMatchObject({
    kind: "broken",
    words: "1 expectation broken",
    names: ["visitors never touch pumps"],
  });
});
