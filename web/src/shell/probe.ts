import type { Schemas } from "../api/client";

/** The port a laptop can be plugged into, as device:port, or null where the thing is none. */
export function plugPlace(thing: Schemas["Item"]): string | null {
  if (thing.kind !== "SSID") return thing.kind === "Port" ? portPlace(thing) : null;
  const gap = thing.title.indexOf(" "); // an SSID may have blanks in its name
  return gap > 0 ? `${thing.title.slice(0, gap)}:${thing.title.slice(gap + 1)}` : null;
}

/** A port or bundle, as device:name, or null where the thing is neither. */
export function portPlace(thing: Schemas["Item"]): string | null {
  if (thing.kind !== "Port" && thing.kind !== "Bundle") return null;
  const [device, port] = thing.title.split(" ");
  return device && port ? `${device}:${port}` : null;
}

/** The tags worth trying on a port: those it carries. */
export function tagsOf(value: unknown): number[] {
  if (value === null || typeof value !== "object" || !("tagged" in value) || !Array.isArray(value.tagged)) return [];
  return value.tagged.filter((t): t is number => typeof t === "number");
}

/** Whether a port bridges, or may by default: one that says another mode has no VLANs of its own. */
export function takesVlans(value: unknown): boolean {
  const mode = value !== null && typeof value === "object" && "mode" in value ? value.mode : undefined;
  return mode === undefined || mode === "bridged";
}
