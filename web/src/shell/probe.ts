import type { Schemas } from "../api/client";

/** The port a laptop can be plugged into, as device:port, or null where the thing is none. */
export function plugPlace(thing: Schemas["Item"]): string | null {
  if (thing.kind !== "Port") return null;
  const [device, port] = thing.title.split(" ");
  return device && port ? `${device}:${port}` : null;
}

/** The tags worth trying on a port: those it carries. */
export function tagsOf(value: unknown): number[] {
  if (value === null || typeof value !== "object" || !("tagged" in value) || !Array.isArray(value.tagged)) return [];
  return value.tagged.filter((t): t is number => typeof t === "number");
}
