import type { Schemas } from "../../api/client";
import type { Membership } from "../../theme/signs";

export type Grid = Schemas["Grid"];
export type Column = Schemas["GridPort"] & { device: string; last: boolean; width: number };
/** Pixels: a column, and a letter of the name above a device's columns. */
const CELL = 28;
const LETTER = 7.5;
export type Row = Schemas["GridRow"];
export interface Spot {
  row: number;
  column: number;
}

/** All columns, left to right, each with its device; wide enough together for its name. */
export function columnsOf(grid: Grid): Column[] {
  return grid.devices.flatMap((d) => {
    const named = Math.min(d.name.length, 12) * LETTER + 12;
    const width = Math.max(CELL, Math.ceil(named / d.ports.length));
    return d.ports.map((p, i) => ({ ...p, device: d.name, last: i === d.ports.length - 1, width }));
  });
}

/** Where an arrow key leads, kept inside the grid. */
export function step(at: Spot, key: string, rows: number, columns: number): Spot | null {
  const to: Record<string, Spot> = {
    ArrowUp: { row: at.row - 1, column: at.column },
    ArrowDown: { row: at.row + 1, column: at.column },
    ArrowLeft: { row: at.row, column: at.column - 1 },
    ArrowRight: { row: at.row, column: at.column + 1 },
    Home: { row: at.row, column: 0 },
    End: { row: at.row, column: columns - 1 },
  };
  const next = to[key];
  if (!next) return null;
  return { row: clamp(next.row, rows), column: clamp(next.column, columns) };
}

function clamp(value: number, count: number): number {
  return Math.max(0, Math.min(count - 1, value));
}

export type Wanted = "none" | "tagged" | "untagged";
const BY_KEY: Record<string, Wanted> = { t: "tagged", u: "untagged", x: "none", Delete: "none", Backspace: "none" };

export function wantedBy(key: string): Wanted | null {
  return BY_KEY[key] ?? null;
}

/** What a click makes of a cell: not a member, tagged, untagged, and round again. */
export function nextCell(state: Membership): Wanted {
  if (state === "") return "tagged";
  return state === "tagged" ? "untagged" : "none";
}

export const STATE_WORDS: Record<Row["state"], string> = {
  whole: "one segment",
  switched: "switched only, no subnet",
  islands: "in islands",
  merged: "merged with another VLAN",
  empty: "no host can stand in it",
};

/** A stroke of the pointer over the grid: everything between its ends becomes what its first cell becomes. */
export interface Stroke {
  from: Spot;
  to: Spot;
  wanted: Wanted;
}

export function spotsOf(stroke: Stroke): Spot[] {
  return selectedSpots(stroke.from, stroke.to);
}

/** All cells of the rectangle between two, both included; none where it has no first corner. */
export function selectedSpots(from: Spot | null, to: Spot): Spot[] {
  if (!from) return [];
  const spots: Spot[] = [];
  for (let row = Math.min(from.row, to.row); row <= Math.max(from.row, to.row); row++)
    for (let column = Math.min(from.column, to.column); column <= Math.max(from.column, to.column); column++) spots.push({ row, column });
  return spots;
}

/** The edit of some cells, those left out that are no membership (subinterfaces) or already what is wanted. */
export function cellsOf(grid: Grid, columns: Column[], spots: Spot[], wanted: Wanted): Schemas["MembershipCell"][] {
  return spots.flatMap(({ row, column }) => {
    const [vlan, port] = [grid.rows[row], columns[column]];
    if (!vlan || !port || port.kind === "routed" || (vlan.cells[column] || "none") === wanted) return [];
    return [{ device: port.device, port: port.name, vlan: vlan.vlan, cell: wanted }];
  });
}
