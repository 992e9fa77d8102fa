import type { Schemas } from "../../api/client";

export type Comparison = Schemas["Comparison"];
export type Difference = Schemas["Difference"];

/** One state that can be compared: what the server calls it, and what a person does. */
export interface State {
  words: string;
  title: string;
  who: string | null;
  at: string | null;
  about: string;
}

/** All states of a design, the present one first. */
export function statesOf(draft: { version: number } | undefined, revisions: Schemas["Revision"][]): State[] {
  const newest = revisions[0];
  const since = draft && newest ? draft.version - newest.version : null;
  const about =
    since === null
      ? "nothing is published yet"
      : since === 0
        ? `as published in revision ${newest?.number}`
        : `${since} ${since === 1 ? "edit" : "edits"} since revision ${newest?.number}`;
  const present: State = { words: "draft", title: `Draft ${draft?.version ?? ""}`, who: null, at: null, about };
  return [present, ...revisions.map((r) => ({ words: `revision ${r.number}`, title: `Revision ${r.number}`, who: r.author, at: r.at, about: r.reason }))];
}

/** What is compared when nobody has chosen: the newest revision with the draft; a what-if with the design it was branched off. */
export function usual(revisions: Schemas["Revision"][], branchOf: string | null): [string | null, string] {
  if (branchOf) return [`design ${branchOf}`, "draft"];
  return [revisions[0] ? `revision ${revisions[0].number}` : null, "draft"];
}

/** The comparison in one line. */
export function inShort(c: Comparison): string {
  const many = (n: number, one: string, more: string) => `${n} ${n === 1 ? one : more}`;
  const { opened, closed, changed } = c.consequences;
  const pairs = [
    [opened.length, "opened"],
    [closed.length, "closed"],
    [changed.length, "changed"],
  ].filter(([n]) => n !== 0);
  const reach = pairs.length > 0 ? pairs.map(([n, word]) => `${many(Number(n), "pair", "pairs")} ${word}`).join(", ") : "no pair reaches anything else";
  return `${c.differences.length === 0 ? "Written alike" : `${many(c.differences.length, "thing differs", "things differ")}`}; ${reach}, ${c.unchanged} as before`;
}

export const SIGNS: Record<Difference["sign"], string> = { added: "+", removed: "−", changed: "~", renamed: "=", moved: "↕" };

/** Differences by the device, or the part of the document, they are in. */
export function byPlace(differences: Difference[]): [string, Difference[]][] {
  const out = new Map<string, Difference[]>();
  for (const d of differences) out.set(placeOf(d), [...(out.get(placeOf(d)) ?? []), d]);
  return [...out];
}

/** The name of the part of a document that a pointer leads into. */
export function placeOf(d: Difference): string {
  const [, top] = (d.now ?? d.before ?? "").split("/");
  if (top === "devices") return d.title.split(" ")[0] ?? "";
  return { vlans: "VLAN plan", cables: "Cables", addresses: "Address sets", services: "Service sets", expectations: "Expectations" }[top ?? ""] ?? "Design";
}

/** A day and a time as a person writes it. */
export function when(at: string): string {
  const date = new Date(at);
  return `${date.toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric" })} ${date.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" })}`;
}
