const COLOURS = ["fill-primary", "fill-warning", "fill-secondary", "fill-base-content"];
const SHAPES = ["M-4 0a4 4 0 1 0 8 0a4 4 0 1 0-8 0z", "M-3.500-3.500h7v7h-7z", "M0-4.500 4.500 3.500h-9z", "M0-5 4 0 0 5-4 0z", "M-4.500-1.800h9v3.600h-9z"];

/** Each zone of a drawing by a shape and a colour of its own, twenty of them before one comes again. */
export function ZoneSign({ zone, zones }: { zone: string; zones: readonly string[] }) {
  const k = Math.max(0, zones.indexOf(zone));
  return <path d={SHAPES[k % SHAPES.length]} className={COLOURS[k % COLOURS.length]} data-zone={zone} />;
}

/** The zones a drawing shows, each with its sign, for its foot. */
export function ZoneLegend({ zones }: { zones: readonly string[] }) {
  return zones.map((zone) => (
    <span key={zone} className="flex items-center gap-1">
      <svg width="12" height="12" viewBox="-6 -6 12 12" aria-hidden="true">
        <ZoneSign zone={zone} zones={zones} />
      </svg>
      {zone}
    </span>
  ));
}
