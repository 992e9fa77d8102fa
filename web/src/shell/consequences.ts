import type { Schemas } from "../api/client";

export interface Group {
  kind: string;
  words: string;
  changes: Schemas["Change"][];
  /** Expectations it is about; none where it is about pairs. */
  names: string[];
}

/** Put consequences into words, transit segments left out; nothing changed = no groups. */
export function shown(consequences: Schemas["Consequences"]): Group[] {
  const groups: Group[] = [];
  const cut = consequences.cut_off ?? [];
  if (cut.length > 0) groups.push({ kind: "cut off", words: `this cuts you off from ${cut.join(", ")}`, changes: [], names: [] });
  for (const kind of ["broken", "mended"] as const) {
    const names = consequences[kind] ?? [];
    if (names.length > 0) groups.push({ kind, words: `${names.length} ${names.length === 1 ? "expectation" : "expectations"} ${kind}`, changes: [], names });
  }
  for (const kind of ["opened", "closed", "changed"] as const) {
    const changes = consequences[kind].filter((c) => !c.folded);
    if (changes.length > 0) groups.push({ kind, words: `${changes.length} ${changes.length === 1 ? "pair" : "pairs"} ${kind}`, changes, names: [] });
  }
  for (const { whole, parts } of consequences.split) groups.push({ kind: `split ${whole}`, words: parted(whole, parts), changes: [], names: [] });
  for (const { whole, parts } of consequences.joined)
    groups.push({ kind: `joined ${whole}`, words: `${parts.join(" and ")} became one segment`, changes: [], names: [] });
  return groups;
}

/** Islands are named after the VLAN they were; anything else has gone over to another segment. */
function parted(whole: string, parts: string[]): string {
  if (parts.every((p) => p.startsWith(`${whole}@`))) return `${whole} fell into ${parts.length} islands`;
  return `part of ${whole} is now ${parts.filter((p) => p !== whole).join(" and ")}`;
}
