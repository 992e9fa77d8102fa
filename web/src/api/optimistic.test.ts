import { expect, test } from "vitest";
import type { Schemas } from "./client";
import { asEdited, asMembered, asShown } from "./optimistic";

const port = { pointer: "/devices/1/ports/2", value: { name: "3", pvid: 10, tagged: [20] } };

test("a field of the thing changes at once", () => {
  expect(asEdited(port, [{ op: "replace", path: "/devices/1/ports/2/pvid", value: 30 }]).value).toEqual({ name: "3", pvid: 30, tagged: [20] });
  expect(asEdited(port, [{ op: "remove", path: "/devices/1/ports/2/tagged" }]).value).toEqual({ name: "3", pvid: 10 });
  expect(asEdited(port, [{ op: "add", path: "/devices/1/ports/2/enabled", value: false }]).value).toMatchObject({ enabled: false });
});

test("what is not its own field is left to the server", () => {
  expect(asEdited(port, [{ op: "replace", path: "/devices/1/ports/20/pvid", value: 30 }])).toBe(port);
  expect(asEdited(port, [{ op: "add", path: "/devices/1/ports/2/tagged/-", value: 30 }])).toBe(port);
  expect(asEdited(port, [{ op: "remove", path: "/devices/1/ports/2" }])).toBe(port);
  expect(asEdited({ pointer: "/cables/0", value: ["a:1", "b:1"] }, [{ op: "remove", path: "/cables/0/1" }]).value).toEqual(["a:1", "b:1"]);
});

test("cells of the grid change at once, and rows without one stay the same rows", () => {
  const rows = [10, 20].map((vlan) => ({ vlan, cells: ["", "tagged", "untagged"] }));
  const grid = {
    devices: [
      { name: "sw", ports: [{ name: "1" }, { name: "2" }] },
      { name: "gate", ports: [{ name: "1" }] },
    ],
    rows,
  } as unknown as Schemas["Grid"];
  const now = asMembered(grid, [
    { device: "gate", port: "1", vlan: 10, cell: "none" },
    { device: "sw", port: "1", vlan: 10, cell: "untagged" },
    { device: "hall", port: "1", vlan: 20, cell: "tagged" },
  ]);
  expect(now.rows[0]?.cells).toEqual(["untagged", "tagged", ""]);
  expect(now.rows[1]).toBe(grid.rows[1]);
});

test("a view shows a field early where it shows it by its own name", () => {
  const at = "/devices/0/rules/1";
  const view = { firewalls: [{ rules: [{ pointer: at, enabled: true, sources: ["a"], zone: "lab" }] }], name: "x" };
  const shown = (path: string, value?: unknown) => asShown(view, [value === undefined ? { op: "remove", path } : { op: "add", path, value }]);
  expect(shown(`${at}/enabled`, false).firewalls[0]?.rules[0]?.enabled).toBe(false);
  expect(shown(`${at}/zone`).firewalls[0]?.rules[0]?.zone).toBeNull();
  expect(shown(`${at}/sources`, ["b"])).toBe(view);
  expect(shown(`${at}/enabled`, "no")).toBe(view);
  expect(shown("/devices/0/rules/2/enabled", false)).toBe(view);
});
