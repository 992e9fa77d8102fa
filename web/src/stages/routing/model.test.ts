import { expect, test } from "vitest";
import { bars, chosen, type Device, type Route, shownRoutes, type Strip, verdicts } from "./model";

const route = (to: string, origin: Route["origin"]): Route => ({
  to,
  origin,
  learnt: null,
  goes_to: "",
  interface: null,
  preference: 0,
  metric: 0,
  active: true,
  state: "in force",
  reason: "",
  pointer: `/r/${to}`,
  blame: "",
  next_vrf: null,
  looks_at: "",
});
const device = (name: string): Device => ({ name, kind: "router", pointer: `/devices/${name}`, routes: true, interfaces: [], vrfs: [] });

test("the device asked for is shown, else the first", () => {
  const both = [device("gate"), device("street")];
  expect(chosen(both, "street")?.name).toBe("street");
  expect(chosen(both, "gone")?.name).toBe("gate");
  expect(chosen([], null)).toBeNull();
});

test("the box's own addresses are folded away until asked for", () => {
  const routes = [route("10.64.1.1/32", "local"), route("10.64.1.0/24", "connected")];
  expect(shownRoutes(routes, false).map((r) => r.origin)).toEqual(["connected"]);
  expect(shownRoutes(routes, true)).toHaveLength(2);
});

test("one address in a large subnet is still wide enough to see", () => {
  const part = { kind: "gateway", first: "10.64.0.1", last: "10.64.0.1", count: 1, words: "", at: 0.5, width: 1 / 65536 };
  const strip = { parts: [part] } as unknown as Strip;
  expect(bars(strip)[0]).toMatchObject({ left: 50, width: 0.45 });
});

test("a lookup speaks of the routes that hold the address, and of no others", () => {
  const row = { to: "0.0.0.0/0", goes_to: "", vrf: "main", wins: true, why: "wins", pointer: "/r/0" };
  expect(verdicts({ address: "x", outcome: "", rows: [row] }).get("/r/0")).toEqual({ wins: true, why: "wins" });
  expect(verdicts(undefined).size).toBe(0);
});
