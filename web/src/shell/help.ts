import type { StageName } from "./stages";

/** Three lines for the first visit of each stage, and where to read on. */
export const HELP: Record<StageName, { lines: [string, string, string]; page: string }> = {
  cabling: {
    lines: [
      "Box adds a device with its ports; Cables leads several at once, as sw1:21-24 to gate:2-5.",
      "Click a box for its ports: a hollow one takes a cable, or a host. Drag from box to box to lead one.",
      "Choose several ports of a box to bundle them, or to make an inline pair.",
    ],
    page: "semantics",
  },
  segments: {
    lines: [
      "New segment makes a VLAN with all it needs, from the tags on the way to its lease and its rules.",
      "Paint cells by click or drag; arrows and t, u, x do the same.",
      "The ring beside a VLAN says whether it is whole, in islands, or merged with another.",
    ],
    page: "semantics",
  },
  routing: {
    lines: [
      "A way out gives a firewall its default route, zone and translation in one go.",
      "Type an address to see which route wins for it, and why the others lose.",
      "Zones and answers of an interface change where they stand, under Interfaces and leases.",
    ],
    page: "semantics",
  },
  zones: {
    lines: [
      "A cell of the grid says how much one zone may open to another; click it to see the rules that decide.",
      "Each rule says what it really decides after those above it.",
      "Drag a rule, and the consequences are shown before you let go.",
    ],
    page: "semantics",
  },
  reach: {
    lines: [
      "A cell says all, some or none; for none, the sign says which layer stops it.",
      "Click a cell for the climb profile: the packet, hop by hop, and the item that decides.",
      "In its panel, ask what would have to change so that it may pass, or may not.",
    ],
    page: "reach",
  },
  failover: {
    lines: [
      "Pull any part and watch who takes over, how fast, and what is lost meanwhile.",
      "Every failure tries each part by itself, and sorts them by harm.",
      "The drill sheet is for the real thing: what to do, what to see, and room for what was seen.",
    ],
    page: "semantics",
  },
  expectations: {
    lines: [
      "Say what must be open and what must stay closed; every edit is held against it.",
      "Open, but nobody asked lists what passes without anybody having said so.",
      "A broken one names the edit that broke it.",
    ],
    page: "reach",
  },
  history: {
    lines: [
      "Publish the draft with a reason; what is published never changes.",
      "Compare any two states as configuration and as reach.",
      "A what-if is a draft of its own, folded back or dropped.",
    ],
    page: "semantics",
  },
};

const KEY = "anabasis.hints";

/** The stages whose hint was closed for good. */
export function closedHints(kept: string | null): string[] {
  try {
    const read: unknown = JSON.parse(kept ?? "[]");
    return Array.isArray(read) ? read.filter((s): s is string => typeof s === "string") : [];
  } catch {
    return [];
  }
}

export function keptHints(storage: Storage): string[] {
  return closedHints(storage.getItem(KEY));
}

export function keepHint(storage: Storage, stage: StageName): void {
  storage.setItem(KEY, JSON.stringify([...new Set([...keptHints(storage), stage])]));
}
