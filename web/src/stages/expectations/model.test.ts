import { expect, test } from "vitest";
import { added, emptyForm, type Expectation, editWords, inOrder, summary, taken } from "./model";

const one = (name: string, holds: boolean): Expectation => ({
  name,
  holds,
  pointer: "",
  source: "a",
  target: "b",
  services: ["any"],
  expect: "closed",
  through: null,
  verdict: "none",
  reason: "",
  decided_by: [],
  ground: { shows: "nothing-passes", flow: null, became: null, name: null, nearest: null },
  note: null,
  cause: null,
});

test("what does not hold stands first", () => {
  expect(inOrder([one("a", true), one("b", false)]).map((e) => e.name)).toEqual(["b", "a"]);
  expect(summary([one("a", true), one("b", false)])).toBe("1 of 2 does not hold.");
  expect(summary([one("a", true)])).toBe("The one expectation holds.");
  expect(summary([])).toBe("Nothing is expected yet.");
});

test("the form makes one edit, under a free name", () => {
  expect(added(emptyForm, [])).toBeNull();
  const form = { ...emptyForm, from: "visitors", to: "lab", services: "ssh, https" };
  expect(added(form, [])).toEqual([
    {
      op: "add",
      path: "/expectations",
      value: [{ name: "visitors never touch lab", from: "visitors", to: "lab", services: ["ssh", "https"], expect: "closed" }],
    },
  ]);
  expect(added({ ...form, expect: "open", through: "gate" }, [one("visitors reach lab", true)])).toMatchObject([
    { path: "/expectations/-", value: { name: "visitors reach lab 2", through: "gate" } },
  ]);
  const only = added({ ...form, expect: "only", through: "gate" }, []);
  expect(only).toMatchObject([{ value: [{ name: "visitors reach lab for these alone", expect: "only" }] }]);
  expect(JSON.stringify(only)).not.toContain("through"); // it is said of what is open only
});

test("suggestions are added as they are", () => {
  expect(taken([{ name: "x" }], [one("a", true)])).toEqual([{ op: "add", path: "/expectations/-", value: { name: "x" } }]);
});

test("an edit is told by its first place", () => {
  const edit = {
    version: 3,
    kind: "edit",
    author: "me",
    at: "",
    inverse: [],
    patch: [
      { op: "remove", path: "/x" },
      { op: "remove", path: "/y" },
    ],
  };
  expect(editWords(edit)).toBe("edit 3 by me: remove /x and 1 more places");
});
