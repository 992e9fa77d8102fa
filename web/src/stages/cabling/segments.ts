import type { Schemas } from "../../api/client";

export type Data = Schemas["SegmentDrawing"];
export type Leg = Schemas["Leg"];

/** From one row of a plate to the next. */
export const ROW = 13;
export const [boxId, segmentId] = [(name: string) => `box ${name}`, (name: string) => `segment ${name}`];

/** The zones of the drawing, each once. */
export function zonesDrawn(data: Data): string[] {
  return [...new Set(data.legs.flatMap((l) => (l.zone ? [l.zone] : [])))].sort();
}

/** What a segment says under its name: its VLANs and subnets, then who stands in it and by which address. */
export function rowsUnder(data: Data, name: string): { text: string; leg: Leg | null }[] {
  const segment = data.segments.find((s) => s.name === name);
  if (!segment) return [];
  const vlans = segment.vlans.length > 0 ? `VLAN ${segment.vlans.join(", ")}` : segment.kind === "transit" ? "between routers" : "no VLAN";
  const subnets = segment.subnets.length > 0 ? segment.subnets : ["no subnet"];
  const legs = data.legs.filter((l) => l.segment === name);
  return [
    { text: `${vlans} · ${subnets[0] ?? ""}`, leg: null },
    ...subnets.slice(1).map((text) => ({ text, leg: null })),
    ...legs.map((leg) => ({ text: `${leg.router} ${leg.addresses[0]?.split("/")[0] ?? "no address"}`, leg })),
  ];
}

const GAP = 8;

interface Plate {
  name: string;
  x: number;
  y: number;
  width: number;
  height: number;
}

/** Plates in one node: a segment by itself, or the segments that only one box stands in, side by side under it. */
export function platesOf(data: Data): { id: string; tier: number; width: number; height: number; plates: Plate[] }[] {
  const crossed = new Set(data.filtered.flat());
  const stacks = new Map<string, Data["segments"]>();
  for (const s of data.segments) {
    const legs = data.legs.filter((l) => l.segment === s.name);
    const only = legs.length === 1 && !crossed.has(s.name) ? legs[0]?.router : undefined;
    const id = only ? `stack ${only}` : segmentId(s.name);
    stacks.set(id, [...(stacks.get(id) ?? []), s]);
  }
  return [...stacks].map(([id, segments]) => {
    const sizes = segments.map((s) => {
      const rows = rowsUnder(data, s.name);
      return {
        name: s.name,
        width: Math.max(s.name.length * 7.4, ...rows.map((r) => r.text.length * 6 + (r.leg ? 14 : 0))) + 18,
        height: 22 + rows.length * ROW,
      };
    });
    const columns = Math.min(6, Math.ceil(Math.sqrt(segments.length * 0.8)));
    const width = Math.max(...sizes.map((p) => p.width));
    const plates: Plate[] = [];
    let y = 0;
    for (let k = 0; k < sizes.length; k += columns) {
      const row = sizes.slice(k, k + columns);
      const height = Math.max(...row.map((p) => p.height));
      plates.push(...row.map((p, c) => ({ ...p, height, width, x: c * (width + GAP), y })));
      y += height + GAP;
    }
    return { id, tier: segments[0]?.tier ?? 0, width: Math.min(columns, segments.length) * (width + GAP) - GAP, height: y - GAP, plates };
  });
}
