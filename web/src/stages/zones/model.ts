import type { Patch, Schemas } from "../../api/client";

export type Policy = Schemas["FirewallPolicy"];
export type Rule = Schemas["RuleView"];
export type Nat = Schemas["NatView"];
export type Cell = Schemas["ZoneCell"];

/** The steps of the pipeline, in the order the box applies them, and what it says for itself. */
export const STEPS = ["destinations", "rules", "sources", "answers"] as const;
export type Step = (typeof STEPS)[number];

export function stepOf(text: string | null): Step {
  return STEPS.find((s) => s === text) ?? "rules";
}

export function chosenPolicy(policies: Policy[], box: string | null): Policy | null {
  return policies.find((p) => p.name === box) ?? policies[0] ?? null;
}

/** The cell that rules are filtered by, or null. */
export function chosenCell(policy: Policy, zones: string | null): Cell | null {
  const [source, target] = (zones ?? "").split(">");
  return policy.cells.find((c) => c.source === source && c.target === target) ?? null;
}

/** An entry of an ordered list, with its place in the whole list. */
export interface Placed<T> {
  index: number;
  entry: T;
}

/** The rules to show, each with its place in the whole order: of the chosen cell, and what is looked for. */
export function shownRules(policy: Policy, cell: Cell | null): Placed<Rule>[] {
  const placed = policy.rules.map((entry, index) => ({ index, entry }));
  return placed.filter(({ index, entry }) => entry.found && (cell === null || cell.rules.includes(index)));
}

export function shownNat(policy: Policy, step: Step): Placed<Nat>[] {
  const placed = policy.nat.map((entry, index) => ({ index, entry }));
  return placed.filter(({ entry }) => (step === "destinations" ? entry.changes_destination : entry.changes_source));
}

/** The edit that moves an entry of an ordered list; null where it stays. */
export function move(list: string, from: number, to: number): Patch | null {
  return from === to ? null : [{ op: "move", from: `${list}/${from}`, path: `${list}/${to}` }];
}

function freeName(base: string, taken: string[]): string {
  let name = base;
  for (let k = 2; taken.includes(name); k++) name = `${base}-${k}`;
  return name;
}

/** A new rule, switched off until it is finished, at a place in the order. */
export function addRule(policy: Policy, at: number, cell: Cell | null): { patch: Patch; pointer: string } {
  const name = freeName(
    "new-rule",
    policy.rules.map((r) => r.name),
  );
  const value = {
    name,
    from: [cell?.source ?? "any"],
    to: [cell?.target ?? "any"],
    sources: ["any"],
    destinations: ["any"],
    services: ["any"],
    action: "permit",
    enabled: false,
  };
  return added(`${policy.pointer}/rules`, policy.rules.length > 0, at, value);
}

/** The same rule again below it, under another name. */
export function copyRule(policy: Policy, at: number): { patch: Patch; pointer: string } | null {
  const rule = policy.rules[at];
  if (!rule) return null;
  const name = freeName(
    `${rule.name}-copy`,
    policy.rules.map((r) => r.name),
  );
  const { sources, destinations, services, action, log } = rule;
  const when = rule.when ? Object.fromEntries(Object.entries(rule.when).filter(([, v]) => v !== null)) : null;
  const more = { ...(log ? { log } : {}), ...(when ? { when } : {}) };
  const value = { name, from: rule.from_zones, to: rule.to_zones, sources, destinations, services, action, enabled: false, ...more };
  return added(`${policy.pointer}/rules`, true, at + 1, value);
}

/** A new translation at the end, switched off until it is finished. */
export function addNat(policy: Policy, step: Step): { patch: Patch; pointer: string } {
  const name = freeName(
    step === "destinations" ? "publish" : "hide",
    policy.nat.map((n) => n.name),
  );
  const change = step === "destinations" ? { destination_to: "198.18.0.1" } : { source_to: "interface" };
  return added(`${policy.pointer}/nat`, policy.nat.length > 0, policy.nat.length, { name, from: ["any"], to: ["any"], ...change, enabled: false });
}

function added(list: string, known: boolean, at: number, value: unknown): { patch: Patch; pointer: string } {
  const patch = known ? [{ op: "add", path: `${list}/${at}`, value }] : [{ op: "add", path: list, value: [value] }];
  return { patch, pointer: `${list}/${known ? at : 0}` };
}

/** `a, b and 3 more`. */
export function few(words: string[], most = 3): string {
  return words.length <= most ? words.join(", ") : `${words.slice(0, most - 1).join(", ")} and ${words.length - most + 1} more`;
}

/** What a cell says when it is chosen. */
export function cellWords(cell: Cell): string {
  if (!cell.kinds_fit) return "Zones of different kinds never meet.";
  const rest = cell.default === "permit" ? "passes" : "is dropped";
  if (cell.opens === "all") return "Everything passes.";
  const decided = `${cell.deciding} of ${cell.rules.length} ${cell.rules.length === 1 ? "rule decides" : "rules decide"} something`;
  if (cell.rules.length === 0) return `No rule speaks of it: all of it ${rest}.`;
  return `${decided}; what none of them takes ${rest}.`;
}

/** What a rule really does, where it is not simply what it says; null = it does what it says. */
export function decidesWords(rule: Rule): string | null {
  const above = few(rule.shadowed_by, 2);
  if (rule.decides === "off") return "switched off";
  if (rule.decides === "nothing") return above ? `decides nothing: ${above} above takes it all` : "decides nothing: nobody it speaks of is there";
  if (rule.decides === "redundant") return `changes nothing: ${few(rule.instead, 2)} would decide the same`;
  if (rule.decides === "unmet") return "never met: no route brings such traffic here";
  if (rule.opposed_by.length > 0) return `less than it says: ${few(rule.opposed_by, 2)} above takes some of it`;
  return rule.spares.length > 0 ? `an exception from ${few(rule.spares, 2)} below` : null;
}
