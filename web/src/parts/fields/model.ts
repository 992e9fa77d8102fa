import type { FormField } from "../../api/making";

export type Plain = string | number | boolean | null | Plain[] | { [key: string]: Plain };

/** The fields of a form that a thing in a mode, on a device of a kind, may fill in; those that say something already stay. */
export function fitting(fields: FormField[], value: Record<string, unknown>, mode: string | null, kind: string): FormField[] {
  return fields.filter((f) => {
    if (f.key in value) return true;
    if (f.kinds.length > 0 && kind !== "" && !f.kinds.includes(kind)) return false;
    return f.modes.length === 0 || mode === null || f.modes.includes(mode);
  });
}

/** The mode of a port or bundle, with the default of its kind of device; null = the thing has none. */
export function modeOf(fields: FormField[], value: Record<string, unknown>, kind: string): string | null {
  const field = fields.find((f) => f.key === "mode" && f.choices.includes("bridged"));
  if (!field) return null;
  const said = value["mode"];
  if (typeof said === "string") return said;
  return ["switch", "hub", "access-point"].includes(kind) ? "bridged" : kind === "firewall" ? "off" : "routed";
}

/** Keys that stand in every form, said or not: what one comes to change. */
const FIRST = new Set([
  "name",
  "enabled",
  "kind",
  "mode",
  "zone",
  "addresses",
  "pvid",
  "untagged",
  "tagged",
  "id",
  "subnets",
  "purpose",
  "from",
  "to",
  "sources",
  "destinations",
  "services",
  "action",
  "via",
  "interface",
  "ranges",
  "gateway",
  "dns",
  "members",
  "expect",
  "source_to",
  "destination_to",
  "protocol",
  "tag",
  "vlan",
  "answers",
  "vrf",
  "priority",
  "heartbeats",
  "watch",
  "preempt",
  "sync_sessions",
  "ends",
  "tags",
  "prefixes",
  "dhcp",
  "routing",
  "between_zones",
  "same_zone",
  "note",
  "lag",
  "peer",
  "local",
  "here",
  "there",
  "import",
  "export",
  "vni",
  "irb",
  "rd",
]);

/** Tell whether a field stands in the open; the others wait folded until they say something. */
export function inTheOpen(field: FormField, value: Record<string, unknown>): boolean {
  return field.key in value || field.required || FIRST.has(field.key);
}

/** What a list of words is in the document: a word that may stand by itself does. */
export function listed(field: FormField, words: string[]): Plain | undefined {
  if (words.length === 0) return undefined;
  const [first] = words;
  if (words.length === 1 && first !== undefined && field.choices.includes(first)) return first;
  return words.map((w) => (field.number && /^\d+$/.test(w) ? Number(w) : w));
}

/** The words of a list as it stands in the document, one word by itself among them. */
export function wordsOf(value: unknown): string[] {
  if (Array.isArray(value)) return value.map(String);
  return value === undefined || value === null || value === "" ? [] : [String(value)];
}

/** What stands where nothing is said. */
export function leftOut(field: FormField): string {
  const { default: given } = field;
  if (given === null || given === undefined) return "";
  return Array.isArray(given) ? given.join(", ") : String(given).replaceAll("_", " ");
}
