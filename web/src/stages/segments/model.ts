import type { Cell } from "../../parts/cells";
import type { Schemas } from "../../api/client";
import type { Membership } from "../../theme/signs";

export type Grid = Schemas["Grid"];
export type Column = Schemas["GridPort"] & { device: string; last: boolean; width: number };
/** Pixels: a column, and a letter of the name above a device's columns. */
const CELL = 28;
const LETTER = 7.5;
export type Row = Schemas["GridRow"];
/** All columns, left to right, each with its device; wide enough together for its name. */
export function columnsOf(grid: Grid): Column[] {
  return grid.devices.flatMap((d) => {
    const named = Math.min(d.name.length, 12) * LETTER + 12;
    const width = Math.max(CELL, Math.ceil(named / d.ports.length));
    return d.ports.map((p, i) => ({ ...p, device: d.name, last: i === d.ports.length - 1, width }));
  });
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
  from: Cell;
  to: Cell;
  wanted: Wanted;
}

export function strokeCells(stroke: Stroke): Cell[] {
  return selectedCells(stroke.from, stroke.to);
}

/** All cells of the rectangle between two, both included; none where it has no first corner. */
export function selectedCells(from: Cell | null, to: Cell): Cell[] {
  if (!from) return [];
  const places: Cell[] = [];
  for (let row = Math.min(from.row, to.row); row <= Math.max(from.row, to.row); row++)
    for (let column = Math.min(from.column, to.column); column <= Math.max(from.column, to.column); column++) places.push({ row, column });
  return places;
}

/** The edit of some cells, those left out that are no membership (subinterfaces) or already what is wanted. */
export function cellsOf(grid: Grid, columns: Column[], places: Cell[], wanted: Wanted): Schemas["MembershipCell"][] {
  return places.flatMap(({ row, column }) => {
    const [vlan, port] = [grid.rows[row], columns[column]];
    if (!vlan || !port || port.kind === "routed" || (vlan.cells[column] || "none") === wanted) return [];
    return [{ device: port.device, port: port.name, vlan: vlan.vlan, cell: wanted }];
  });
}

/** The ports of some columns as a port list, for a spreadsheet or for another design: cells between tabs, whole lists of VLANs. Layer-3 ports have none. */
export function portListOf(grid: Grid, columns: Column[], from: Cell, to: Cell): string {
  const [low, high] = [Math.min(from.column, to.column), Math.max(from.column, to.column)];
  const rows = columns.slice(low, high + 1).flatMap((column, i) => {
    if (column.kind === "routed") return [];
    const inState = (...states: Membership[]) =>
      grid.rows
        .filter((r) => states.includes(r.cells[low + i] ?? ""))
        .map((r) => r.vlan)
        .join(" ");
    return [[column.device, column.name, inState("untagged", "enters"), inState("untagged", "leaves"), inState("tagged"), column.note ?? ""]];
  });
  return [["device", "port", "pvid", "untagged", "tagged", "note"], ...rows].map((r) => r.join("\t")).join("\n");
}
