import { type Ref, useEffect, useState } from "react";
import type { Schemas } from "../../api/client";
import { ZoneSign } from "../../theme/zones";
import { KindSign } from "./Drawing";
import { layOutSegments } from "./layout";
import type { Placed } from "./model";
import { Sheet } from "./Sheet";

type Data = Schemas["SegmentDrawing"];
type Leg = Schemas["Leg"];

interface Props {
  ref: Ref<SVGSVGElement>;
  data: Data;
  /** Pixels there are. */
  width: number;
  select: (pointer: string) => void;
}

const ROW = 13;
const [boxId, segmentId] = [(name: string) => `box ${name}`, (name: string) => `segment ${name}`];
const legId = (leg: Leg) => `leg ${leg.router} ${leg.interface}`;

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

/** Segments as plates, the boxes that route between them as boxes: what remains of a site when the cables are forgotten. */
export function SegmentDrawing({ ref, data, width, select }: Props) {
  const [placed, setPlaced] = useState<Placed | null>(null);
  const zones = zonesDrawn(data);
  useEffect(() => {
    let wanted = true;
    const groups = platesOf(data);
    const tier = new Map([...data.routers.map((r) => [boxId(r.name), r.tier] as const), ...groups.map((g) => [g.id, g.tier] as const)]);
    const home = new Map(groups.flatMap((g) => g.plates.map((p) => [p.name, g.id] as const)));
    const nodes = [...data.routers.map((r) => ({ id: boxId(r.name), width: r.name.length * 7.6 + 40, height: 36, tier: r.tier })), ...groups];
    const ordered = (a: string, b: string): [string, string] => ((tier.get(a) ?? 0) <= (tier.get(b) ?? 0) ? [a, b] : [b, a]);
    const legs = data.legs.map((l) => ({ id: legId(l), ends: ordered(boxId(l.router), home.get(l.segment) ?? "") }));
    const edges = [
      ...legs.filter((e, k) => !e.ends.some((x) => x.startsWith("stack ")) || legs.findIndex((o) => o.ends.join() === e.ends.join()) === k),
      ...data.filtered.map(([a = "", b = ""]) => ({ id: `filtered ${a} ${b}`, ends: ordered(segmentId(a), segmentId(b)) })),
    ];
    void layOutSegments(nodes, edges).then((p) => wanted && setPlaced(p));
    return () => {
      wanted = false;
    };
  }, [data]);
  if (!placed) return null;
  const scale = Math.max(0.7, Math.min(1, (width - 4) / placed.width));
  const plates = new Map(
    platesOf(data).flatMap((g) =>
      g.plates.map((p) => [p.name, { ...p, x: p.x + (placed.boxes[g.id]?.x ?? 0), y: p.y + (placed.boxes[g.id]?.y ?? 0) }] as const),
    ),
  );
  const path = (id: string) => placed.lines[id]?.map((p, k) => `${k ? "L" : "M"}${p.x} ${p.y}`).join("");
  return (
    <Sheet ref={ref} label="Segments and routers" placed={placed} scale={scale}>
      {data.legs.map((leg) => (
        <path
          key={legId(leg)}
          d={path(legId(leg))}
          fill="none"
          className={leg.up ? "stroke-primary" : "stroke-error"}
          strokeWidth="1.600"
          strokeDasharray={leg.up ? undefined : "5 3"}
          data-leg={`${leg.router}:${leg.interface}`}
        >
          <title>
            {[`${leg.router} ${leg.interface}`, leg.addresses.join(", "), leg.zone ? `zone ${leg.zone}` : "no zone", leg.reason].filter(Boolean).join(" · ")}
          </title>
        </path>
      ))}
      {data.filtered.map(([a = "", b = ""]) => (
        <path key={`${a} ${b}`} d={path(`filtered ${a} ${b}`)} fill="none" className="stroke-secondary" strokeWidth="1.600" strokeDasharray="2 3">
          <title>{`${a} and ${b} are one broadcast domain; what passes between them is filtered`}</title>
        </path>
      ))}
      {data.routers.map((r) => {
        const at = placed.boxes[boxId(r.name)];
        return (
          at && (
            <g key={r.name} transform={`translate(${at.x} ${at.y})`}>
              <g
                role="button"
                tabIndex={0}
                aria-label={`${r.kind} ${r.name}`}
                data-router={r.name}
                className="cursor-pointer"
                onClick={() => select(r.pointer)}
                onKeyDown={(e) => e.key === "Enter" && select(r.pointer)}
              >
                <rect
                  width={at.width}
                  height={at.height}
                  rx={r.kind === "outside" ? 14 : 4}
                  className="fill-base-100 stroke-base-content/75"
                  strokeWidth={r.kind === "firewall" ? 2 : 1.2}
                />
                <KindSign kind={r.kind} middle={at.height / 2} />
              </g>
              <text x={28} y={at.height / 2 + 4.5} className="pointer-events-none fill-base-content text-[12.500px] font-semibold">
                {r.name}
              </text>
            </g>
          )
        );
      })}
      {data.segments.map((s) => {
        const at = plates.get(s.name);
        const rows = rowsUnder(data, s.name);
        return (
          at && (
            <g key={s.name} transform={`translate(${at.x} ${at.y})`}>
              <g
                role="button"
                tabIndex={0}
                aria-label={[s.name, ...rows.map((r) => r.text)].join(", ")}
                data-segment={s.name}
                className="cursor-pointer"
                onClick={() => select(s.pointer)}
                onKeyDown={(e) => e.key === "Enter" && select(s.pointer)}
              >
                <rect width={at.width} height={at.height} rx={2} className="fill-base-200 stroke-base-content/40" strokeWidth="1" />
              </g>
              <text x={8} y={15} className="pointer-events-none fill-base-content text-[12px] font-semibold">
                {s.name}
              </text>
              {rows.map((row, k) => (
                <g key={`${k} ${row.text}`} className="pointer-events-none" transform={`translate(8 ${28 + k * ROW})`}>
                  {row.leg?.zone && (
                    <g transform="translate(4 -3.500)">
                      <ZoneSign zone={row.leg.zone} zones={zones} />
                    </g>
                  )}
                  <text x={row.leg ? 14 : 0} className={`font-mono text-[9.500px] ${row.leg && !row.leg.up ? "fill-error" : "fill-base-content"}`}>
                    {row.text}
                  </text>
                </g>
              ))}
            </g>
          )
        );
      })}
    </Sheet>
  );
}
