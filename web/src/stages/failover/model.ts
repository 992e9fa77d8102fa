import type { Patch, Schemas } from "../../api/client";

export type Pair = Schemas["PairStand"];
export type PortRow = Schemas["PortStand"];
export type Event = Schemas["EventRow"];
export type Moment = Schemas["MomentRow"];
export type Swept = Schemas["SweptRow"];
export type Drill = Schemas["DrillView"];

/** Fail a part, or restore it where it has failed. */
export function turn(failed: string[], part: string): string[] {
  return failed.includes(part) ? failed.filter((f) => f !== part) : [...failed, part];
}

/** Tell whether a side of a port has failed: the port, its cable, or its unit. */
export function dead(failed: string[], unit: string, row: PortRow, side: number): boolean {
  const cable = row.cables[side];
  return failed.includes(unit) || failed.includes(`${unit}:${row.port}`) || (!!cable && failed.includes(cable));
}

/** Who forwards in an event: every active unit. */
export function activeUnits(event: Event | undefined): string[] {
  return [...new Set(event?.standings.flatMap((s) => s.election.active) ?? [])];
}

/** What a moment costs, in words. */
export function cost(moment: Moment): string {
  const { lost, broken } = moment;
  if (lost.length === 0) return "nothing is lost";
  const pairs = `${lost.length} ${lost.length === 1 ? "pair loses" : "pairs lose"} flows`;
  return broken.length ? `${pairs}, ${broken.length} ${broken.length === 1 ? "expectation breaks" : "expectations break"}` : pairs;
}

/** Milliseconds as a person says them. */
export function duration(ms: number | null): string {
  if (ms === null) return "not noticed";
  if (ms === 0) return "at once";
  return ms % 1000 === 0 || ms > 10_000 ? `${Math.round(ms / 1000)} s` : `${ms} ms`;
}

export interface Mark {
  x: number;
  width: number;
  moment: Moment;
}

/** Lay the moments of an event out along `width` pixels: each lasts until the next, the last one to the end. */
export function layOut(moments: Moment[], width: number): Mark[] {
  const last = moments.at(-1)?.at_ms ?? 0;
  const whole = Math.max(last * 1.6, 1);
  const least = width * 0.16;
  const spans = moments.map((m, k) => Math.max(least, (((moments[k + 1]?.at_ms ?? whole) - m.at_ms) / whole) * width));
  const factor = width / spans.reduce((a, b) => a + b, 0);
  let x = 0;
  return moments.map((moment, k) => {
    const mark = { x, width: (spans[k] ?? 0) * factor, moment };
    x += mark.width;
    return mark;
  });
}

/** The edit that keeps what was seen at a drill with the design. */
export function kept(pair: Pair, day: string, who: string, steps: Drill["steps"], seen: Record<string, string>, first: boolean): Patch {
  const results = steps.filter((s) => seen[s.name]).map((s) => ({ step: s.name, expected: expected(s), seen: seen[s.name] }));
  const drill = { at: day, ...(who ? { who } : {}), results };
  return [{ op: "add", path: `${pair.pointer}/failover/drills${first ? "" : "/-"}`, value: first ? [drill] : drill }];
}

/** What is to be expected at a step, in words. */
export function expected(step: Drill["steps"][number]): string {
  const who = step.active.length > 1 ? `${step.active.join(" and ")} both active` : `${step.active[0] ?? "nobody"} active`;
  return `${who}, ${duration(step.within_ms)}; sessions ${step.sessions}`;
}

/** What a unit is, name by name: what both must share, an address of its own, its priority. */
export function facts(unit: Pair["units"][number]): [string, string][] {
  const own: [string, string][] = unit.address ? [["address", unit.address]] : [];
  return [...Object.entries(unit.traits).map(([k, v]): [string, string] => [k, String(v)]), ...own, ["priority", String(unit.priority)]];
}
