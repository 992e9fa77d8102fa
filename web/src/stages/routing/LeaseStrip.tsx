import { memo } from "react";
import type { StageProps } from "../../shell/parts";
import { bars, type Strip, STRIP_WORDS } from "./model";

/** The subnet from its first address to its last: told apart by height and hatching as well as colour. */
const LOOK: Record<string, string> = {
  range: "bg-primary/70",
  reserved: "bg-accent",
  excluded: "bg-[repeating-linear-gradient(45deg,var(--color-base-content)_0_1px,transparent_1px_4px)]",
  gateway: "bg-base-content",
  own: "bg-base-content",
  host: "bg-secondary",
  free: "",
  edge: "bg-base-content/30",
};
const HEIGHT: Record<string, string> = { gateway: "-top-1 -bottom-1", own: "top-1 bottom-1", edge: "top-1.5 bottom-1.5" };

export function LeaseStrip({ strip, select }: { strip: Strip; select: StageProps["select"] }) {
  return (
    <div className="flex flex-col gap-1" data-strip={strip.interface}>
      <p className="flex flex-wrap items-baseline gap-x-2 text-[12px]">
        <button type="button" className="link-quiet" onClick={() => select(strip.pointer)}>
          DHCP {strip.mode}
        </button>
        <span className="muted font-mono text-[11.500px]">{strip.subnet}</span>
        {strip.mode === "relay" ? <span>asks {strip.asks.join(", ") || "nobody"}</span> : <span>{strip.free_to_hand_out} to hand out</span>}
        <span className="muted">{strip.options.join(" · ")}</span>
      </p>
      {strip.mode !== "relay" && (
        <div
          className="hair bg-base-200 relative h-3.5 rounded-sm border"
          role="img"
          aria-label={`${strip.subnet}: ${strip.parts.map((p) => `${p.first} to ${p.last} ${STRIP_WORDS[p.kind] ?? p.kind}`).join("; ")}`}
        >
          {bars(strip).map(({ part, left, width }) => (
            <span
              key={part.first}
              className={`absolute ${LOOK[part.kind] ?? ""} ${HEIGHT[part.kind] ?? "top-0 bottom-0"}`}
              style={{ left: `${left}%`, width: `${width}%` }}
              title={`${part.first}${part.count > 1 ? ` to ${part.last} (${part.count})` : ""}: ${part.words}`}
            />
          ))}
        </div>
      )}
    </div>
  );
}

/** What the strips are made of, once for all of them. */
export const StripKey = memo(function StripKey({ strips }: { strips: Strip[] }) {
  const used = new Set(strips.flatMap((s) => s.parts.map((p) => p.kind)));
  return (
    <p className="muted flex flex-wrap gap-x-4 py-2 text-[11px]">
      {Object.entries(STRIP_WORDS)
        .filter(([k]) => used.has(k) && k !== "edge")
        .map(([k, words]) => (
          <span key={k} className="flex items-center gap-1">
            <span className="hair bg-base-200 relative inline-block h-3 w-5 border">
              <span className={`absolute inset-x-1.5 ${LOOK[k] ?? ""} ${HEIGHT[k] ?? "top-0 bottom-0"}`} />
            </span>
            {words}
          </span>
        ))}
    </p>
  );
});
