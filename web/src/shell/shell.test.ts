import { expect, test } from "vitest";
import { fieldsOf, readBack, suggestions, written } from "./fields";
import { readPlace, writePlace } from "./place";
import { firstState, shellReducer } from "./state";

test("a place written into the address is read back the same", () => {
  const place = {
    design: "abc",
    stage: "segments" as const,
    at: "/devices/1/ports/2",
    pair: { from: "keepers@hall-sw", to: "a & b" },
    question: { service: "tcp/443", family: 6 as const },
    transits: true,
    passing: true,
    failed: ["gate-a", "hall-sw:1--desk-7:1"], packet: { from: "10.64.130.7", to: "lab", service: "tcp/443" }, box: "gate", look: "10.64.130.7", step: "answers", zones: "house>water", one: "revision 2", two: "draft",
  };
  const [path, query] = writePlace(place).split("?");
  expect(readPlace(path ?? "", new URLSearchParams(query))).toEqual(place);
});

test("an odd address leads to the matrix", () => {
  const place = readPlace("/d/abc/nowhere", new URLSearchParams("family=7&from=x"));
  expect(place).toMatchObject({ stage: "reach", pair: null, question: { service: null, family: null } });
});

test("what was kept of an earlier visit is read with care", () => {
  expect(firstState("{not json", false).theme).toBe("tidelight");
  expect(firstState('{"theme":"pink","bench":"shut"}', true)).toMatchObject({ theme: "tidedark", bench: "shut" });
});

test("the frame's own state turns as asked", () => {
  const start = firstState(null, false);
  expect(shellReducer(start, { type: "theme-turned" }).theme).toBe("tidedark");
  const open = shellReducer(start, { type: "overlay-opened", overlay: "finder" });
  expect(open.overlay).toBe("finder");
  expect(shellReducer(open, { type: "overlay-opened", overlay: "finder" }).overlay).toBe("none");
  expect(shellReducer({ ...start, bench: "shut" }, { type: "bench-wanted" }).bench).toBe("open");
});

test("values typed on the bench side keep their sort", () => {
  expect(readBack("110, 150", [110])).toEqual([110, 150]);
  expect(readBack("tcp/443 , dns", ["https"])).toEqual(["tcp/443", "dns"]);
  expect(readBack("7", 3)).toBe(7);
  expect(readBack("07x", "a")).toBe("07x");
  expect(readBack("12", "12a")).toBe("12");
  expect(readBack("", [1, 2])).toEqual([]);
  expect(written([1, 2])).toBe("1, 2");
});

test("a rule has a switch even where the document leaves it out", () => {
  const switches = (value: object) => fieldsOf("Rule", value).filter((f) => f.key === "enabled");
  expect(switches({ name: "x" })).toEqual([{ kind: "flag", key: "enabled", value: true, given: false }]);
  expect(switches({ enabled: false })).toEqual([{ kind: "flag", key: "enabled", value: false, given: true }]);
});

test("what a thing may say and does not is shown, in the order one reads it", () => {
  expect(fieldsOf("Rule", { action: "drop", name: "x" }).map((f) => f.key)).toEqual(["name", "enabled", "sources", "destinations", "services", "action", "log", "note"]);
  expect(fieldsOf("Zone", { name: "x", parts: [{ a: 1 }] }).map((f) => [f.key, f.kind])).toEqual([
    ["name", "text"],
    ["parts", "parts"],
    ["kind", "text"],
    ["note", "text"],
  ]);
});

test("a key suggests the names it may hold, a device's own things without the device", () => {
  const links = [
    { kind: "Zone", title: "gate house" },
    { kind: "Zone", title: "other house" },
    { kind: "Address set", title: "inside" },
  ];
  expect(suggestions("from", "gate", links)).toEqual(["house"]);
  expect(suggestions("sources", "gate", links)).toEqual(["inside"]);
  expect(suggestions("note", "gate", links)).toEqual([]);
});
