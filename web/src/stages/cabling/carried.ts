import type { Schemas } from "../../api/client";
import type { Cabling, Line } from "./model";

export type Carried = Schemas["CarriedEnd"];

/** Letters that stand beside a line before the next one, and rows under each other. */
const [LONGEST, ROWS] = [11, 3];

/** Numbers as a person writes them: `110-112,130`. */
export function runs(numbers: readonly number[]): string {
  const out: [number, number][] = [];
  for (const n of numbers) {
    const last = out.at(-1);
    if (last && n === last[1] + 1) last[1] = n;
    else out.push([n, n]);
  }
  return out.map(([a, b]) => (a === b ? `${a}` : b === a + 1 ? `${a},${b}` : `${a}-${b}`)).join(",");
}

/** A list of numbers broken at its commas into rows that find room beside a line; what does not is cut, and whole in the title. */
export function broken(row: string): string[] {
  const out: string[] = [];
  for (const part of row.split(/(?<=,)/)) {
    const last = out.at(-1);
    if (last !== undefined && last.length + part.length <= LONGEST) out[out.length - 1] = last + part;
    else out.push(out.length > 0 ? `  ${part}` : part);
  }
  return out.length <= ROWS ? out : [...out.slice(0, ROWS - 1), "  …"];
}

/** What one end carries, a row each: untagged, tagged, and what comes in untagged where that is another VLAN. */
export function rowsOf(end: Carried | undefined): string[] {
  if (!end) return [];
  const untagged = end.vlans.filter((v) => !v.tagged && (v.pvid || end.vlans.every((o) => !o.pvid)));
  const enters = end.vlans.filter((v) => v.pvid && v.tagged);
  const leaves = end.vlans.filter((v) => !v.tagged && !untagged.includes(v));
  const tagged = end.vlans.filter((v) => v.tagged);
  const row = (letter: string, of: typeof tagged) => (of.length > 0 ? [`${letter} ${runs(of.map((v) => v.vlan))}`] : []);
  return [...row("U", [...untagged, ...leaves]), ...row("P", enters), ...row("T", tagged)];
}

export function zonesAt(end: Carried | undefined): string[] {
  return [...new Set([end?.zone, ...(end?.vlans.map((v) => v.zone) ?? [])].filter((z): z is string => Boolean(z)))].sort();
}

export function zonesOf(cabling: Cabling): string[] {
  return [...new Set(cabling.lines.flatMap((l: Line) => l.carried.flatMap(zonesAt)))].sort();
}

/** Letters an end needs beside its line. */
export function lettersAt(line: Line, side: number, told: boolean): number {
  const port = line.ports[side]?.join(",").length ?? 0;
  if (!told) return port;
  const end = line.carried[side];
  return Math.max(
    port + zonesAt(end).length * 2,
    ...rowsOf(end)
      .flatMap(broken)
      .map((r) => r.length),
    0,
  );
}
