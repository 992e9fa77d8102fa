import { expect, test } from "vitest";
import { freeName, rows, since } from "./model";

test("a name that is taken gets a number", () => {
  expect(freeName("Site", [])).toBe("Site");
  expect(freeName("Site", ["Site", "Site 2"])).toBe("Site 3");
});

test("how long ago", () => {
  const now = new Date("2026-03-02T12:00:00Z");
  expect(since("2026-03-02T11:59:30Z", now)).toBe("just now");
  expect(since("2026-03-02T11:00:00Z", now)).toBe("60 minutes ago");
  expect(since("2026-03-01T12:00:00Z", now)).toBe("24 hours ago");
  expect(since("2026-02-20T12:00:00Z", now)).toBe("10 days ago");
});

test("boxes stand in a row a tier, and what finds no room is counted", () => {
  const found = rows(
    [
      { name: "net", tier: 0 },
      { name: "a", tier: 3 },
      { name: "b", tier: 3 },
      { name: "c", tier: 3 },
    ],
    2,
  );
  expect(found.tiers).toEqual([0, 3]);
  expect(found.spots["net"]).toEqual({ x: 0.5, y: 0.25 });
  expect(found.spots["b"]?.x).toBeCloseTo(2 / 3);
  expect(found.spots["c"]).toBeUndefined();
  expect(found.more[1]).toBe(1);
});
