import type { Patch, Schemas } from "./client";

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

type Cell = Schemas["GridRow"]["cells"][number];

/** The grid as it will be once an edit of memberships is stored; what else an edit changes comes with the answer. */
export function asMembered(grid: Schemas["Grid"], cells: Schemas["MembershipCell"][]): Schemas["Grid"] {
  const ports = grid.devices.flatMap((d) => d.ports.map((p) => `${d.name}:${p.name}`));
  const wanted = new Map<string, Cell>(cells.map((c) => [`${c.vlan} ${ports.indexOf(`${c.device}:${c.port}`)}`, c.cell === "none" ? "" : c.cell]));
  const rows = grid.rows.map((row) => {
    const now = row.cells.map((cell, k) => wanted.get(`${row.vlan} ${k}`) ?? cell);
    return now.some((cell, k) => cell !== row.cells[k]) ? { ...row, cells: now } : row;
  });
  return { ...grid, rows };
}

/** A view as it will be once an edit is stored, where it shows a field of a thing under the field's own name: a switch, a zone, a list of answers. */
export function asShown<T>(view: T, patch: Patch): T {
  const said = new Map(
    patch.filter((op) => op["op"] !== "move" && op["op"] !== "copy").map((op) => [String(op["path"]), op["op"] === "remove" ? null : op["value"]]),
  );
  return shownWith(view, said) as T;
}

function shownWith(part: unknown, said: ReadonlyMap<string, unknown>): unknown {
  if (part === null || typeof part !== "object") return part;
  if (Array.isArray(part)) {
    const now = part.map((entry) => shownWith(entry, said));
    return now.some((entry, k) => entry !== part[k]) ? now : part;
  }
  let now = part as Record<string, unknown>;
  for (const [key, value] of Object.entries(now)) {
    const path = `${String(now["pointer"])}/${key}`;
    const next = said.has(path) && alike(value, said.get(path)) ? said.get(path) : shownWith(value, said);
    if (next !== value) now = { ...now, [key]: next };
  }
  return now;
}

/** A view may show something else under a field's name: only what is of the field's kind is shown early. */
function alike(shown: unknown, wanted: unknown): boolean {
  return shown === null || wanted === null ? typeof (shown ?? wanted) === "string" : typeof shown === typeof wanted && typeof shown !== "object";
}
