import { expect, test } from "vitest";
import { byDevice, emptySegment, type Options, proposed, wantedOf } from "./newSegment";

const options: Options = {
  purposes: {},
  firewalls: { gate: ["hall", "tank"] },
  zones: { gate: ["house"] },
  ports: ["tank-sw:4", "tank-sw:5", "hall-sw:1"],
  vlan: 200,
};

test("what is not said is proposed", () => {
  expect(proposed(emptySegment, options)).toEqual({ vlan: "200", firewall: "gate", port: "hall" });
  expect(proposed({ ...emptySegment, port: "tank", vlan: "125" }, options)).toEqual({ vlan: "125", firewall: "gate", port: "tank" });
});

test("nothing is asked before there is a name and a number", () => {
  expect(wantedOf(emptySegment, options)).toBeNull();
  expect(wantedOf({ ...emptySegment, name: "den", vlan: "9999" }, options)).toBeNull();
});

test("a segment that is switched only has no firewall, subnet or zone", () => {
  const form = { ...emptySegment, name: " den ", subnet: "10.64.125.0/24", zone: "water" };
  expect(wantedOf({ ...form, purpose: "switched" }, options)).toEqual({ name: "den", purpose: "switched", vlan: 200, ports: [], way_out: true });
  expect(wantedOf(form, options)).toEqual({
    name: "den",
    purpose: "inside",
    vlan: 200,
    ports: [],
    way_out: true,
    subnet: "10.64.125.0/24",
    firewall: "gate",
    port: "hall",
    zone: "water",
  });
});

test("ports stand by device", () => {
  expect(byDevice(options.ports)).toEqual([
    ["tank-sw", ["4", "5"]],
    ["hall-sw", ["1"]],
  ]);
});
