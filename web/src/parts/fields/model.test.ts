import { describe, expect, it } from "vitest";
import type { FormField } from "../../api/making";
import { fitting, inTheOpen, leftOut, listed, modeOf, wordsOf } from "./model";

const field = (key: string, more: Partial<FormField> = {}): FormField => ({
  key,
  title: key,
  help: "",
  unit: "",
  example: "",
  editor: "text",
  choices: [],
  ref: null,
  any: false,
  model: null,
  number: false,
  default: null,
  required: false,
  modes: [],
  kinds: [],
  ...more,
});

describe("a form", () => {
  it("shows what fits the mode and the kind of device, and whatever says something already", () => {
    const fields = [field("pvid", { modes: ["bridged"] }), field("zone", { kinds: ["firewall"] }), field("note")];
    expect(fitting(fields, {}, "routed", "switch").map((f) => f.key)).toEqual(["note"]);
    expect(fitting(fields, { pvid: 3 }, "routed", "firewall").map((f) => f.key)).toEqual(["pvid", "zone", "note"]);
  });
  it("knows the mode a port has where it says none", () => {
    const fields = [field("mode", { choices: ["bridged", "routed"] })];
    expect(modeOf(fields, {}, "switch")).toBe("bridged");
    expect(modeOf(fields, {}, "firewall")).toBe("off");
    expect(modeOf(fields, { mode: "routed" }, "switch")).toBe("routed");
    expect(modeOf([field("mode", { choices: ["server", "relay"] })], {}, "switch")).toBeNull();
  });
  it("keeps rare fields folded until they say something", () => {
    expect(inTheOpen(field("mtu"), {})).toBe(false);
    expect(inTheOpen(field("mtu"), { mtu: 9000 })).toBe(true);
    expect(inTheOpen(field("name"), {})).toBe(true);
  });
});

describe("a list of words", () => {
  it("is numbers where numbers are meant, and a word alone where it may stand alone", () => {
    const tags = field("tags", { choices: ["any"], number: true });
    expect(listed(tags, ["any"])).toBe("any");
    expect(listed(tags, ["10", "untagged"])).toEqual([10, "untagged"]);
    expect(listed(tags, [])).toBeUndefined();
    expect(wordsOf("any")).toEqual(["any"]);
    expect(wordsOf([10, 20])).toEqual(["10", "20"]);
    expect(wordsOf(undefined)).toEqual([]);
  });
  it("says what is meant where it is left out", () => {
    expect(leftOut(field("services", { default: ["any"] }))).toBe("any");
    expect(leftOut(field("new_vlan", { default: "tagged_everywhere" }))).toBe("tagged everywhere");
  });
});
