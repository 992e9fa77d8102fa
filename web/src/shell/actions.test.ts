import { expect, test } from "vitest";
import { type Action, actionsFor } from "./actions";

const action = (words: string, hint: string, also = ""): Action => ({ words, hint, also, act: () => undefined });
const all = [action("New VLAN", "Segments"), action("New box", "Cabling", "switch firewall"), action("Dark or light", "Theme")];

test("a few letters of what to do, or another word for it", () => {
  expect(actionsFor(all, "new").map((a) => a.words)).toEqual(["New VLAN", "New box"]);
  expect(actionsFor(all, "new switch").map((a) => a.words)).toEqual(["New box"]);
  expect(actionsFor(all, "xyz")).toEqual([]);
  expect(actionsFor(all, "")).toHaveLength(3);
});
