import type { Schemas } from "../../api/client";

export type MapData = Schemas["MatrixMap"];
export type TileCell = Schemas["TileCell"];
export interface MapView {
  group: "zone" | "vlan" | "device";
  order: "plan" | "like";
  fold: string[];
}
/** What tiles told: "from to" by names, and its cell. */
export type Looked = Map<string, TileCell["cell"]>;
export const GROUPS = ["zone", "vlan", "device"] as const;
export const ZOOMS = [3, 5, 8, 12, 18, 24];
export const TILE = 64;

export interface Scroll {
  left: number;
  top: number;
  width: number;
  height: number;
}
export interface Sight {
  rows: [number, number];
  columns: [number, number];
  /** Pixels left of and above the cells, for names. */
  room: { left: number; top: number };
}

/** Which rows and columns are in sight, the end of each not included. */
export function inSight(scroll: Scroll, zoom: number, count: number): Sight {
  const room = { left: 150, top: 96 };
  const span = (start: number, size: number): [number, number] => [
    Math.min(count, Math.floor(start / zoom)),
    Math.min(count, Math.ceil((start + Math.max(size, 0)) / zoom) + 1),
  ];
  return { rows: span(scroll.top, scroll.height - room.top), columns: span(scroll.left, scroll.width - room.left), room };
}

/** The tiles in sight with a letter that leaves something open, by the names of their segments. */
export function tilesOf(data: MapData, sight: Sight): { sources: string[]; targets: string[] }[] {
  const blocks = ([first, end]: [number, number]) => {
    const out: [number, number][] = [];
    for (let k = Math.floor(first / TILE) * TILE; k < end; k += TILE) out.push([k, Math.min(k + TILE, data.axis.length)]);
    return out;
  };
  const names = ([first, end]: [number, number]) => data.axis.slice(first, end).map((u) => (u.folded ? "" : u.name));
  const tiles: { sources: string[]; targets: string[] }[] = [];
  for (const rows of blocks(sight.rows))
    for (const columns of blocks(sight.columns)) {
      const open = data.rows.slice(...rows).some((row) => row.slice(...columns).includes("u"));
      if (open) tiles.push({ sources: names(rows), targets: names(columns) });
    }
  return tiles.slice(0, 12);
}

/** The letter at a place. */
export function lettersAround(data: MapData, [row, column]: [number, number]): string {
  return data.rows[row]?.[column] ?? "";
}

const WORDS: Record<string, string> = { a: "everything passes", s: "some flows pass", n: "nothing passes: rules", u: "being looked at", "-": "itself" };

/** What a cell of the map says in words. */
export function mapWords(data: MapData, looked: Looked, [row, column]: [number, number]): string {
  const [from, to] = [data.axis[row]?.name ?? "", data.axis[column]?.name ?? ""];
  const told = looked.get(`${from} ${to}`);
  const verdict = told && { all: "everything passes", some: "some flows pass", none: "nothing passes" }[told.verdict];
  const why = told && told.verdict !== "all" ? `; stopped at layer ${told.layer ?? "?"}: ${told.reason}` : "";
  const letter = lettersAround(data, [row, column]);
  const share = letter >= "0" && letter <= "9" ? `something passes in ${letter} tenths of the pairs` : WORDS[letter];
  return `${from} to ${to}: ${told ? `${verdict}${why}` : share}`;
}
