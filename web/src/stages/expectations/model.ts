import type { Patch, Schemas } from "../../api/client";

export type Expectation = Schemas["ExpectationRow"];

/** What does not hold first, then as written. */
export function inOrder(expectations: Expectation[]): Expectation[] {
  return [...expectations].sort((a, b) => Number(a.holds) - Number(b.holds));
}

/** The line over the list. */
export function summary(expectations: Expectation[]): string {
  const broken = expectations.filter((e) => !e.holds).length;
  if (expectations.length === 0) return "Nothing is expected yet.";
  if (broken === 0) return expectations.length === 1 ? "The one expectation holds." : `All ${expectations.length} hold.`;
  return `${broken} of ${expectations.length} ${broken === 1 ? "does" : "do"} not hold.`;
}

export interface Form {
  from: string;
  to: string;
  services: string;
  expect: "open" | "closed" | "only";
  through: string;
}

export const emptyForm: Form = { from: "", to: "", services: "any", expect: "closed", through: "" };

/** The edit that adds what is in the form; null while an end is missing. */
export function added(form: Form, known: Expectation[]): Patch | null {
  const [from, to] = [form.from.trim(), form.to.trim()];
  if (from === "" || to === "") return null;
  const services = form.services
    .split(",")
    .map((s) => s.trim())
    .filter(Boolean);
  const base = form.expect === "closed" ? `${from} never touch ${to}` : form.expect === "only" ? `${from} reach ${to} for these alone` : `${from} reach ${to}`;
  const name = freeName(base, known);
  const value = {
    name,
    from,
    to,
    services: services.length > 0 ? services : ["any"],
    expect: form.expect,
    ...(form.expect === "open" && form.through ? { through: form.through } : {}),
  };
  return append([value], known);
}

/** The edit that takes suggestions over. */
export function taken(suggestions: Record<string, unknown>[], known: Expectation[]): Patch {
  return append(suggestions, known);
}

function append(values: unknown[], known: Expectation[]): Patch {
  if (known.length === 0) return [{ op: "add", path: "/expectations", value: values }];
  return values.map((value) => ({ op: "add", path: "/expectations/-", value }));
}

function freeName(base: string, known: Expectation[]): string {
  const names = known.map((e) => e.name);
  let name = base;
  for (let k = 2; names.includes(name); k++) name = `${base} ${k}`;
  return name;
}

/** What an edit did, in a word or two: the first place it touched. */
export function editWords(edit: Schemas["EditRecord"]): string {
  const first = edit.patch[0];
  const more = edit.patch.length > 1 ? ` and ${edit.patch.length - 1} more places` : "";
  return `edit ${edit.version} by ${edit.author}: ${String(first?.["op"] ?? "nothing")} ${String(first?.["path"] ?? "")}${more}`;
}

/** How deep it is defended, as a line under it. */
export function depthWords({ depth, exact, ways }: Pick<Schemas["DepthRow"], "depth" | "exact" | "ways">): string {
  const few = ways.length;
  if (depth === 1 && exact) return few === 1 ? "One thing going wrong opens it" : `Any one of ${few} things going wrong opens it`;
  if (depth === 2 && exact) return "Two things must go wrong to open it";
  if (depth >= 3) return "At least three things must go wrong to open it";
  return depth === 2 ? "At least two things must go wrong to open it" : "Not known yet";
}
