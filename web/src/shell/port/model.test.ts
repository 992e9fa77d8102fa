import { expect, test } from "vitest";
import { emptyMode, newMode, shortForm, vlansOf, zonesFor } from "./model";

test("VLANs are read as numbers and ranges, and anything else is no list", () => {
  expect(vlansOf("110, 150-152,9")).toEqual([110, 150, 151, 152, 9]);
  expect(vlansOf("")).toEqual([]);
  expect(vlansOf("110, cameras")).toBeNull();
});

test("a short form is asked for only when it is whole", () => {
  const typed = { device: "hall-sw", ports: "2-5", vlan: "130", tagged: "" };
  expect(shortForm({ ...typed, form: "access" })).toMatchObject({ vlan: 130, tagged: [] });
  expect(shortForm({ ...typed, form: "voice" })).toBeNull();
  expect(shortForm({ ...typed, form: "trunk", tagged: "110-111" })).toMatchObject({ vlan: 130, tagged: [110, 111] });
  expect(shortForm({ ...typed, form: "access", vlan: "130, 140" })).toBeNull();
  expect(shortForm({ ...typed, form: "access", ports: " " })).toBeNull();
});

test("a new mode is asked for once it is chosen, a bundle once it is named", () => {
  expect(newMode("gate:5", emptyMode)).toBeNull();
  expect(newMode("gate:5", { ...emptyMode, mode: "lag" })).toBeNull();
  expect(newMode("gate:5", { ...emptyMode, mode: "routed", addresses: "10.64.9.1/24," })).toMatchObject({
    device: "gate",
    port: "5",
    addresses: ["10.64.9.1/24"],
    zone: null,
  });
});

test("only zones of the port's kind are offered", () => {
  const gate = { zones: [{ name: "water" }, { name: "vendor", kind: "inline" }] };
  expect(zonesFor(gate, "routed")).toEqual(["water"]);
  expect(zonesFor(gate, "inline")).toEqual(["vendor"]);
  expect(zonesFor(null, "inline")).toEqual([]);
});
