import { useCabling } from "../api/queries";
import { rows } from "./model";

const [W, H] = [340, 118];

/** A site at a glance: a row a tier, outside above, hosts below; down lines in the colour of what is broken. */
export function SmallDrawing({ design }: { design: string }) {
  const cabling = useCabling(design, []);
  const boxes = cabling.data?.boxes ?? [];
  const { spots, more } = rows(boxes, 12);
  const at = (name: string) => {
    const spot = spots[name];
    return spot && { x: spot.x * W, y: spot.y * H };
  };
  return (
    <svg viewBox={`0 0 ${W} ${H}`} className="bg-base-200/60 hair w-full border-b" aria-hidden="true">
      {cabling.data && boxes.length === 0 && (
        <text x={W / 2} y={H / 2 + 4} textAnchor="middle" className="fill-base-content text-[12px] opacity-60">
          nothing drawn yet
        </text>
      )}
      {cabling.data?.lines.map((l) => {
        const [a, b] = [at(l.ends[0] ?? ""), at(l.ends[1] ?? "")];
        return (
          a &&
          b && (
            <line
              key={l.ends.join(" ") + l.pointers[0]}
              x1={a.x}
              y1={a.y}
              x2={b.x}
              y2={b.y}
              strokeWidth={l.bundle ? 2.4 : 1}
              className={l.state === "down" ? "stroke-error" : "stroke-base-content/35"}
              strokeDasharray={l.state === "standby" ? "2 2" : undefined}
            />
          )
        );
      })}
      {boxes.map((b) => {
        const p = at(b.name);
        const wide = b.kind === "firewall" ? 20 : b.kind === "endpoint" ? 7 : 16;
        return (
          p && (
            <rect
              key={b.name}
              x={p.x - wide / 2}
              y={p.y - 4.5}
              width={wide}
              height="9"
              rx={b.kind === "endpoint" || b.kind === "outside" ? 4.5 : 1.5}
              className={b.kind === "firewall" ? "fill-primary stroke-primary" : "fill-base-100 stroke-base-content/70"}
              strokeDasharray={b.standby ? "2 1.5" : undefined}
            />
          )
        );
      })}
      {Object.entries(more).map(
        ([row, count]) =>
          count > 0 && (
            <text
              key={row}
              x={W - 6}
              y={((Number(row) + 0.5) / Object.keys(more).length) * H + 4}
              textAnchor="end"
              className="fill-base-content font-mono text-[9px] opacity-70"
            >
              +{count}
            </text>
          ),
      )}
    </svg>
  );
}
