import type { Schemas } from "../../api/client";

export type Device = Schemas["DeviceRouting"];
export type Route = Schemas["RouteRow"];
export type Strip = Schemas["Strip"];

/** The device to show: the one asked for, else the first that has anything. */
export function chosen(devices: Device[], box: string | null): Device | null {
  return devices.find((d) => d.name === box) ?? devices[0] ?? null;
}

/** The routes a person reads first: what the box reaches, without its own addresses. */
export function shownRoutes(routes: Route[], own: boolean): Route[] {
  return own ? routes : routes.filter((r) => r.origin !== "local");
}

/** The leases of one interface. */
export function stripsOf(strips: Strip[], device: string, name: string): Strip[] {
  return strips.filter((s) => s.device === device && s.interface === name);
}

/** A strip's parts as bars: every part is at least a hair wide, so that one address can be seen and clicked. */
export function bars(strip: Strip): { part: Strip["parts"][number]; left: number; width: number }[] {
  return strip.parts.map((part) => ({ part, left: part.at * 100, width: Math.max(part.width * 100, 0.45) }));
}

export const STRIP_WORDS: Record<string, string> = {
  range: "handed out",
  reserved: "kept for one host",
  excluded: "excluded",
  gateway: "gateway",
  own: "a box's own",
  host: "an endpoint",
  free: "free",
  edge: "no host",
};

/** Which rows of the tables a lookup speaks of: pointer -> what it says. */
export function verdicts(found: Schemas["LookupView"] | undefined): Map<string, { wins: boolean; why: string }> {
  return new Map((found?.rows ?? []).map((r) => [r.pointer, { wins: r.wins, why: r.why }]));
}
