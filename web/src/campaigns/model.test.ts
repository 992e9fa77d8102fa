import { describe, expect, it } from "vitest";
import { askedWords, caseWords, leftWords, most, stageAddress } from "./model";

const mistake = { kind: "zone-missing", meaning: "an interface is in no zone", place: "gate 1", pointer: "/devices/4/ports/0", value: "" };

describe("campaigns", () => {
  it("says what happens in a case", () => {
    expect(caseWords(["gate-a"], [mistake])).toBe("gate-a fails; an interface is in no zone: gate 1");
    expect(caseWords([], [{ ...mistake, place: "" }])).toBe("an interface is in no zone");
    expect(caseWords([], [{ ...mistake, value: "house" }])).toBe("an interface is in no zone: gate 1 (house)");
    expect(caseWords([], [])).toBe("as things are");
  });

  it("tells a time to go in a unit one can wait by", () => {
    expect([null, 0.2, 80, 600, 7200, 400000].map(leftWords)).toEqual([
      "",
      "about 1 s to go",
      "about 80 s to go",
      "about 10 min to go",
      "about 2 h to go",
      "about 5 days to go",
    ]);
  });

  it("draws bars against the most of each harm", () => {
    const of = (alone: number[]) => ({ design: "d", name: "n", failure: true, meaning: "", alone, cases: 1, harmful: 1, opens: 0, beyond: 0 });
    expect(most([of([0, 3, 40, 1]), of([1, 0, 7, 2])])).toEqual([1, 3, 40, 2]);
    expect(most([])).toEqual([0, 0, 0, 0]);
  });

  it("leads to the design with what has failed there", () => {
    expect(stageAddress({ design: "x", failed: [] })).toBe("/d/x/reach");
    expect(stageAddress({ design: "x", failed: ["a:1--b:2", "c"] })).toBe("/d/x/reach?failed=a%3A1--b%3A2&failed=c");
  });

  it("says what is asked", () => {
    expect(askedWords(1, 2, true)).toBe("single failures, up to 2 mistakes at once, each with each");
    expect(askedWords(0, 0, false)).toBe("things as they are");
  });
});
