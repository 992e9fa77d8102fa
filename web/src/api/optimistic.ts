import type { Patch } from "./client";

export interface Thing {
  pointer: string;
  value?: unknown;
}

/** A thing as it will be once an edit is stored: its own fields changed at once, everything else left to the server. */
export function asEdited<T extends Thing>(thing: T, patch: Patch): T {
  const { value } = thing;
  if (value === null || typeof value !== "object" || Array.isArray(value)) return thing;
  let fields = value as Record<string, unknown>;
  for (const op of patch) {
    const path = String(op["path"]);
    const inside = thing.pointer === "" ? path : path.startsWith(`${thing.pointer}/`) ? path.slice(thing.pointer.length) : null;
    const key = inside?.slice(1).replaceAll("~1", "/").replaceAll("~0", "~");
    if (key === undefined || key === "" || inside?.slice(1).includes("/")) continue;
    if (op["op"] === "remove") fields = Object.fromEntries(Object.entries(fields).filter(([k]) => k !== key));
    if (op["op"] === "add" || op["op"] === "replace") fields = { ...fields, [key]: op["value"] };
  }
  return fields === value ? thing : { ...thing, value: fields };
}
