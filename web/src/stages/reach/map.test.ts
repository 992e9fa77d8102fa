import { expect, test } from "vitest";
import { inSight, type MapData, mapWords, TILE, tilesOf } from "./map";

const axis = (count: number) =>
  Array.from({ length: count }, (_, k) => ({ name: `s${k}`, group: k < count / 2 ? "a" : "b", pointer: "", segments: [`s${k}`], folded: false }));
const data = (rows: string[]): MapData => ({ axis: axis(rows.length), rows, groups: ["a", "b"] });

test("only what is in sight is drawn, and never past the end", () => {
  const sight = inSight({ left: 120, top: 0, width: 450, height: 396 }, 12, 1000);
  expect(sight.columns).toEqual([10, 36]);
  expect(sight.rows).toEqual([0, 26]);
  expect(inSight({ left: 0, top: 11_900, width: 450, height: 396 }, 12, 1000).rows).toEqual([991, 1000]);
});

test("tiles are asked for only where a letter leaves something open", () => {
  const sight = { rows: [0, 2], columns: [0, 2], room: { left: 0, top: 0 } } as ReturnType<typeof inSight>;
  expect(tilesOf(data(["-a", "n-"]), sight)).toEqual([]);
  expect(tilesOf(data(["-u", "n-"]), sight)).toEqual([{ sources: ["s0", "s1"], targets: ["s0", "s1"] }]);
});

test("a tile is no larger than the server takes", () => {
  const rows = Array.from({ length: 200 }, () => "u".repeat(200));
  for (const tile of tilesOf(data(rows), inSight({ left: 0, top: 0, width: 900, height: 900 }, 5, 200))) {
    expect(tile.sources.length).toBeLessThanOrEqual(TILE);
    expect(tile.targets.length).toBeLessThanOrEqual(TILE);
  }
});

test("words of a letter, of a folded share, and of what a tile told", () => {
  const map = data(["-u3", "n-a", "s--"]);
  expect(mapWords(map, new Map(), [1, 0])).toBe("s1 to s0: nothing passes: rules");
  expect(mapWords(map, new Map(), [0, 2])).toBe("s0 to s2: something passes in 3 tenths of the pairs");
  const told = new Map([
    ["s0 s1", { verdict: "none" as const, layer: "vlan" as const, reason: "the tag is missing", tone: "broken" as const, sometimes: false }],
  ]);
  expect(mapWords(map, told, [0, 1])).toBe("s0 to s1: nothing passes; stopped at layer vlan: the tag is missing");
});
