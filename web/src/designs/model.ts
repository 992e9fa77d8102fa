/** Longer files are not read: the server takes none so long (64 MiB). */
export const LONGEST = 64 * 2 ** 20;

/** A name that no design of the list has. */
export function freeName(base: string, names: string[]): string {
  let name = base;
  for (let k = 2; names.includes(name); k++) name = `${base} ${k}`;
  return name;
}

/** How long ago something was, in a word or two. */
export function since(then: string, now: Date): string {
  const minutes = Math.round((now.getTime() - new Date(then).getTime()) / 60_000);
  if (minutes < 2) return "just now";
  if (minutes < 120) return `${minutes} minutes ago`;
  if (minutes < 48 * 60) return `${Math.round(minutes / 60)} hours ago`;
  return `${Math.round(minutes / 1440)} days ago`;
}

export interface Spot {
  x: number;
  y: number;
}

/** Where the boxes of a small drawing stand: a row a tier, spread evenly; at most `most` a row, the rest counted. */
export function rows(boxes: { name: string; tier: number }[], most: number): { spots: Record<string, Spot>; more: Record<number, number>; tiers: number[] } {
  const tiers = [...new Set(boxes.map((b) => b.tier))].sort((a, b) => a - b);
  const spots: Record<string, Spot> = {};
  const more: Record<number, number> = {};
  tiers.forEach((tier, row) => {
    const here = boxes.filter((b) => b.tier === tier);
    const shown = here.slice(0, most);
    more[row] = here.length - shown.length;
    shown.forEach((b, k) => (spots[b.name] = { x: (k + 1) / (shown.length + 1), y: (row + 0.5) / tiers.length }));
  });
  return { spots, more, tiers };
}
