import { describe, expect, it } from "vitest";
import { byPlace, choicesOf, lasts, queued, refusedOf, standing, timeline } from "./sheet";

describe("a sheet on site", () => {
  it("says how long things last", () => {
    expect(lasts(30)).toBe("30 s");
    expect(lasts(89)).toBe("89 s");
    expect(lasts(600)).toBe("10 min");
  });

  it("offers the answers that a test can have", () => {
    expect(choicesOf({ do: "ping", expect: "answer" }).map((c) => c.value)).toEqual(["answer", "none"]);
    expect(choicesOf({ do: "lease", expect: "10.0.0.0/24 via 10.0.0.1" }).map((c) => c.value)).toEqual(["none"]);
    expect(choicesOf({ do: "look", expect: "up 2" }).map((c) => c.value)).toEqual(["up 2", "down"]);
  });

  it("tells how a line stands", () => {
    const line = { id: "T1", expect: "answer" };
    expect(standing(line, undefined, [])).toBe("open");
    expect(standing(line, { value: "answer", note: "", at: "" }, [])).toBe("right");
    expect(standing(line, { value: "none", note: "", at: "" }, ["T1"])).toBe("wrong");
  });

  it("keeps lines of one place together", () => {
    const found = byPlace([{ stand: "a" }, { stand: "b" }, { stand: "a" }]);
    expect(found.map((f) => [f.place, f.lines.length])).toEqual([
      ["a", 2],
      ["b", 1],
    ]);
  });

  it("adds steps up on a line of time", () => {
    const steps = [1, 2, 3].map((step) => ({ step, takes_s: 10 * step, broken: step === 2 ? ["x"] : [] }));
    const beats = timeline(steps, [{ from: "a", to: "b", whole: true, first: 2, last: 3, seconds: 50 }]);
    expect(beats.map((b) => [b.start, b.cut, b.broken])).toEqual([
      [0, 0, 0],
      [10, 1, 1],
      [30, 1, 0],
    ]);
  });

  it("finds what was refused", () => {
    expect(refusedOf([{ pointer: "/2/value" }, { pointer: "" }])).toEqual([2]);
  });

  it("sends the last answer of a line alone", () => {
    const one = { line: "T1", value: "none", note: "", at: "1" };
    expect(queued([one, { ...one, line: "T2" }], { ...one, value: "answer" }).map((w) => [w.line, w.value])).toEqual([
      ["T2", "none"],
      ["T1", "answer"],
    ]);
  });
});
