/** How the values of a thing are shown on the bench side, and read back from what a person types. */
export type Scalar = string | number | boolean | null;
export type Field =
  | { kind: "flag"; key: string; value: boolean; given: boolean }
  | { kind: "text"; key: string; value: Scalar }
  | { kind: "list"; key: string; value: Scalar[] }
  | { kind: "parts"; key: string; count: number };

/** Things that are on unless they say otherwise get a switch even where the document leaves it out. */
const SWITCHED = new Set(["Rule", "Port", "Bundle", "Subinterface", "VLAN interface", "Route", "Translation"]);

export function fieldsOf(kind: string, value: unknown): Field[] {
  if (value === null || typeof value !== "object" || Array.isArray(value)) return [];
  const entries = Object.entries(value as Record<string, unknown>);
  const fields = entries.map(([key, v]): Field => {
    if (typeof v === "boolean") return { kind: "flag", key, value: v, given: true };
    if (Array.isArray(v)) return v.every(isScalar) ? { kind: "list", key, value: v } : { kind: "parts", key, count: v.length };
    if (isScalar(v)) return { kind: "text", key, value: v };
    return { kind: "parts", key, count: Object.keys(v as object).length };
  });
  if (SWITCHED.has(kind) && !("enabled" in value)) fields.push({ kind: "flag", key: "enabled", value: true, given: false });
  return fields;
}

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
