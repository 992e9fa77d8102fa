/** How the values of a thing are shown on the bench side, and read back from what a person types. */
export type Scalar = string | number | boolean | null;
export type Field =
  | { kind: "flag"; key: string; value: boolean; given: boolean }
  | { kind: "text"; key: string; value: Scalar; given: boolean }
  | { kind: "list"; key: string; value: Scalar[]; given: boolean }
  | { kind: "parts"; key: string; count: number };

/** Things that are on unless they say otherwise get a switch even where the document leaves it out. */
const SWITCHED = new Set(["Rule", "Port", "Bundle", "Subinterface", "VLAN interface", "Route", "Translation"]);

/** What a thing of a kind may say and leaves out as a rule: shown empty, so that one can say it. */
const DEFAULTS: Record<string, Record<string, Scalar[] | Scalar>> = {
  Rule: { sources: ["any"], destinations: ["any"], services: ["any"], log: false, note: "" },
  Translation: { from: ["any"], to: ["any"], sources: ["any"], destinations: ["any"], services: ["any"], source_to: "", destination_to: "", service_to: "", one_to_one: false, note: "" },
  Subinterface: { addresses: [], zone: "", vrf: "", answers: "" },
  "VLAN interface": { addresses: [], zone: "", vrf: "", answers: "" },
  Route: { preference: "", metric: "", note: "" },
  VLAN: { subnets: [], purpose: "", note: "" },
  Zone: { kind: "routed", note: "" },
};

/** Keys of which only these values are allowed. */
export const CHOICES: Record<string, string[]> = {
  action: ["permit", "drop", "refuse"],
  kind: ["routed", "bridged", "inline"],
  purpose: ["inside", "visitors", "switched", "transit"],
};

/** Tell whether a field is a choice: its key has choices, and what stands there is one of them, or nothing. */
export function offered(field: Field): boolean {
  if (field.kind !== "text") return false;
  const choices = CHOICES[field.key];
  return choices !== undefined && (!field.given || choices.includes(written(field.value)));
}

/** What kind of name a key holds, for suggestions; keys left out hold free text. */
const NAMES: Record<string, string[]> = {
  zone: ["Zone"],
  from: ["Zone"],
  to: ["Zone"],
  vrf: ["VRF"],
  answers: ["Answers"],
  sources: ["Address set"],
  destinations: ["Address set"],
  services: ["Service set"],
};

/** The names that a key of a thing may hold, of those the design has: a device's own things are called `device name`. */
export function suggestions(key: string, device: string | null, links: { kind: string; title: string }[]): string[] {
  const kinds = NAMES[key] ?? [];
  return links.flatMap(({ kind, title }) => {
    if (!kinds.includes(kind)) return [];
    if (kind.endsWith("set")) return [title];
    return device !== null && title.startsWith(`${device} `) ? [title.slice(device.length + 1)] : [];
  });
}

export function fieldsOf(kind: string, value: unknown): Field[] {
  if (value === null || typeof value !== "object" || Array.isArray(value)) return [];
  const entries = Object.entries(value as Record<string, unknown>);
  const fields = entries.map(([key, v]): Field => {
    if (typeof v === "boolean") return { kind: "flag", key, value: v, given: true };
    if (Array.isArray(v)) return v.every(isScalar) ? { kind: "list", key, value: v, given: true } : { kind: "parts", key, count: v.length };
    if (isScalar(v)) return { kind: "text", key, value: v, given: true };
    return { kind: "parts", key, count: Object.keys(v as object).length };
  });
  for (const [key, v] of Object.entries(DEFAULTS[kind] ?? {})) {
    if (key in value) continue;
    if (typeof v === "boolean") fields.push({ kind: "flag", key, value: v, given: false });
    else if (Array.isArray(v)) fields.push({ kind: "list", key, value: v, given: false });
    else fields.push({ kind: "text", key, value: v, given: false });
  }
  if (SWITCHED.has(kind) && !("enabled" in value)) fields.push({ kind: "flag", key: "enabled", value: true, given: false });
  const order = ORDER[kind] ?? [];
  const rank = (f: Field) => (order.includes(f.key) ? order.indexOf(f.key) : order.length);
  return fields.sort((a, b) => rank(a) - rank(b));
}

/** The keys of a kind in the order one reads them; others stand behind as written. */
const ORDER: Record<string, string[]> = {
  Rule: ["name", "enabled", "from", "to", "sources", "destinations", "services", "action", "log", "note"],
  Translation: ["name", "enabled", "from", "to", "sources", "destinations", "services", "destination_to", "service_to", "source_to", "one_to_one", "note"],
  Subinterface: ["tag", "enabled", "addresses", "zone", "vrf", "answers"],
  "VLAN interface": ["vlan", "enabled", "addresses", "zone", "vrf", "answers"],
  Route: ["to", "enabled", "via", "interface", "vrf", "discard", "preference", "metric", "note"],
};

function isScalar(v: unknown): v is Scalar {
  return v === null || ["string", "number", "boolean"].includes(typeof v);
}

/** Read typed text as a value of the same sort as the old one; lists are written with commas. */
export function readBack(text: string, old: Scalar | Scalar[]): Scalar | Scalar[] {
  if (Array.isArray(old)) {
    const parts = text.split(",").map((t) => t.trim()).filter(Boolean);
    const numbers = old.length > 0 ? old.every((v) => typeof v === "number") : parts.every((p) => /^\d+$/.test(p));
    return parts.map((p) => (numbers && /^-?\d+$/.test(p) ? Number(p) : p));
  }
  const trimmed = text.trim();
  if (typeof old === "number" && /^-?\d+$/.test(trimmed)) return Number(trimmed);
  if (old === null && trimmed === "") return null;
  return trimmed;
}

export function written(value: Scalar | Scalar[]): string {
  return Array.isArray(value) ? value.join(", ") : String(value ?? "");
}
