import { type Ref, useEffect, useState } from "react";
import { ZoneSign } from "../../theme/zones";
import { KindSign } from "./Drawing";
import { layOutSegments } from "./layout";
import type { Placed } from "./model";
import { boxId, type Data, type Leg, platesOf, ROW, rowsUnder, segmentId, zonesDrawn } from "./segments";
import { Sheet } from "./Sheet";

interface Props {
  ref: Ref<SVGSVGElement>;
  data: Data;
  /** Pixels there are. */
  width: number;
  select: (pointer: string) => void;
}

const legId = (leg: Leg) => `leg ${leg.router} ${leg.interface}`;

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
