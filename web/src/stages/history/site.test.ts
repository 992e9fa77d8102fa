import { describe, expect, it } from "vitest";
import type { SiteDifference, Weighed } from "../../api/surveys";
import { byBox, targetsOf, weight } from "./site";

const row = (device: string, key: string) => ({ device, key }) as SiteDifference;

describe("what is seen on site", () => {
  it("stands by box, what is of the whole site first", () => {
    const found = byBox([row("gate", "a"), row("hall-sw", "b"), row("", "c"), row("gate", "d")]);
    expect(found.map((g) => [g.box, g.rows.map((r) => r.key).join("")])).toEqual([
      ["", "c"],
      ["gate", "ad"],
      ["hall-sw", "b"],
    ]);
  });
  it("says what taking over would do", () => {
    const one: Weighed = { key: "k", opened: 2, closed: 0, changed: 0, broken: 1, refused: null };
    expect(weight(one)).toBe("opens 2, breaks 1");
    expect(weight({ ...one, opened: 0, broken: 0 })).toBe("nothing");
    expect(weight({ ...one, refused: "no" })).toBe("the design would not take it");
    expect(weight(undefined)).toBeUndefined();
  });
  it("reads whom to ask", () => {
    expect(targetsOf(" a, b:161\nsnmp://c ")).toEqual(["a", "b:161", "snmp://c"]);
    expect(targetsOf("127.0.0.1:9-11")).toEqual(["127.0.0.1:9", "127.0.0.1:10", "127.0.0.1:11"]);
    expect(targetsOf("127.0.0.1:11-9")).toEqual(["127.0.0.1:11-9"]);
  });
});
