import { expect, test } from "vitest";
import { asEdited } from "./optimistic";

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
