import type { SiteDifference, Weighed } from "../../api/surveys";

/** Differences by the box they are on, the site as a whole first, boxes in the order they come. */
export function byBox(found: SiteDifference[]): { box: string; rows: SiteDifference[] }[] {
  const out = new Map<string, SiteDifference[]>();
  for (const one of found) out.set(one.device, [...(out.get(one.device) ?? []), one]);
  return [...out].map(([box, rows]) => ({ box, rows })).sort((a, b) => Number(a.box !== "") - Number(b.box !== ""));
}

/** What taking one over would do to reach, in few words; undefined = it is not known yet. */
export function weight(of: Weighed | undefined): string | undefined {
  if (!of) return undefined;
  if (of.refused) return "the design would not take it";
  const parts = [
    of.opened > 0 ? `opens ${of.opened}` : "",
    of.closed > 0 ? `closes ${of.closed}` : "",
    of.changed > 0 ? `changes ${of.changed}` : "",
    of.broken > 0 ? `breaks ${of.broken}` : "",
  ].filter(Boolean);
  return parts.length > 0 ? parts.join(", ") : "nothing";
}

/** Whom to ask, out of what was typed: lines, blanks or commas between them; `127.0.0.1:21000-21017` is a port each. */
export function targetsOf(typed: string): string[] {
  return typed
    .split(/[\s,]+/)
    .filter(Boolean)
    .flatMap((one) => {
      const range = /^(.*):(\d{1,5})-(\d{1,5})$/.exec(one);
      const [low, high] = [Number(range?.[2] ?? 0), Number(range?.[3] ?? 0)];
      if (!range || high < low || high - low > 1000) return [one];
      return Array.from({ length: high - low + 1 }, (_, k) => `${range[1]}:${low + k}`);
    });
}
