import { expect, test } from "vitest";
import { plugPlace, tagsOf } from "./probe";

const thing = (kind: string, title: string) => ({
  kind,
  title,
  pointer: "",
  value: null,
  depends_on: [],
  needed_by: [],
  model: null,
  owner_kind: "",
  inside: [],
});

test("only ports take a laptop", () => {
  expect(plugPlace(thing("Port", "hall-sw 2"))).toBe("hall-sw:2");
  expect(plugPlace(thing("Bundle", "hall-sw across"))).toBeNull();
  expect(plugPlace(thing("SSID", "hall-ap pier visitors"))).toBe("hall-ap:pier visitors");
  expect(plugPlace(thing("Port", "odd"))).toBeNull();
});

test("tags worth trying are those the port carries", () => {
  expect(tagsOf({ tagged: [180, 130] })).toEqual([180, 130]);
  expect(tagsOf({ pvid: 3 })).toEqual([]);
  expect(tagsOf(null)).toEqual([]);
  expect(tagsOf({ tagged: "x" })).toEqual([]);
});
