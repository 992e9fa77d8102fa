import { expect, test } from "vitest";
import { readPlace, writePlace } from "./place";
import { firstState, shellReducer } from "./state";

test("a place written into the address is read back the same", () => {
  const place = {
    design: "abc",
    stage: "segments" as const,
    at: "/devices/1/ports/2",
    pair: { from: "keepers@hall-sw", to: "a & b" },
    question: { service: "tcp/443", family: 6 as const, asOf: "2026-12-01T20:00" },
    transits: true,
    passing: true,
    failed: ["gate-a", "hall-sw:1--desk-7:1"],
    packet: { from: "10.64.130.7", to: "lab", service: "tcp/443" },
    box: "gate",
    look: "10.64.130.7",
    step: "answers",
    zones: "house>water",
    one: "revision 2",
    two: "draft",
  };
  const [path, query] = writePlace(place).split("?");
  expect(readPlace(path ?? "", new URLSearchParams(query))).toEqual(place);
});

test("an odd address leads to the matrix", () => {
  const place = readPlace("/d/abc/nowhere", new URLSearchParams("family=7&from=x"));
  expect(place).toMatchObject({ stage: "reach", pair: null, question: { service: null, family: null, asOf: null } });
});

test("what was kept of an earlier visit is read with care", () => {
  expect(firstState("{not json", false).theme).toBe("tidelight");
  expect(firstState('{"theme":"pink","bench":"shut"}', true)).toMatchObject({ theme: "tidedark", bench: "shut" });
  expect(firstState('{"bench":"open"}', false, true).bench).toBe("shut");
});

test("the frame's own state turns as asked", () => {
  const start = firstState(null, false);
  expect(shellReducer(start, { type: "theme-turned" }).theme).toBe("tidedark");
  expect(shellReducer(start, { type: "keys-turned" }).keys).toBe("off");
  expect(firstState('{"keys":"off"}', false).keys).toBe("off");
  const open = shellReducer(start, { type: "overlay-opened", overlay: "finder" });
  expect(open.overlay).toBe("finder");
  expect(shellReducer(open, { type: "overlay-opened", overlay: "finder" }).overlay).toBe("none");
  expect(shellReducer({ ...start, bench: "shut" }, { type: "bench-wanted" }).bench).toBe("open");
});
