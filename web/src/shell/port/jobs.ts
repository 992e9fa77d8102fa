import type { Wanted } from "../../api/making";

/** The ports a job is about. */
export interface Chosen {
  device: string;
  ports: string[];
}

export interface Job {
  id: "bundle" | "little-switch" | "inline-pair" | "join-routed" | "phone-and-desk" | "only-theirs" | "rename-ports" | "remove-ports";
  words: string;
  /** One sentence: what becomes of the ports. */
  means: string;
  /** What has to be typed; null = nothing. */
  asks: { label: string; placeholder: string; needed: boolean } | null;
  /** It makes sense on one port by itself, from its bench. */
  alone?: true;
  wanted: (chosen: Chosen, text: string) => Wanted | null;
}

const CALL = { label: "Name", placeholder: "what to call it", needed: true };
const list = (c: Chosen) => c.ports.join(", ");
const number = (text: string) => (/^\d+$/.test(text) ? Number(text) : null);

const BUNDLE: Job = {
  id: "bundle",
  words: "Bundle",
  means: "One line of several cables, negotiated by LACP; the other ends are bundled too.",
  asks: CALL,
  wanted: (c, name) => ({ action: "bundle", body: { device: c.device, ports: list(c), name, protocol: "lacp-active", far: true } }),
};
const LITTLE_SWITCH: Job = {
  id: "little-switch",
  words: "Little switch",
  means: "Spare ports bridged in one new VLAN, with a gateway, leases and zones.",
  asks: CALL,
  wanted: (c, name) => (c.ports.length > 1 ? { action: "little-switch", body: { firewall: c.device, ports: list(c), name } } : null),
};
const INLINE: Job = {
  id: "inline-pair",
  words: "Inline pair",
  means: "Two ports joined as one wire: what enters one leaves by the other, where the rules permit it.",
  asks: CALL,
  wanted: (c, name) => (c.ports.length === 2 ? { action: "inline-pair", body: { device: c.device, ports: list(c), name } } : null),
};
const JOIN: Job = {
  id: "join-routed",
  words: "Join a routed port",
  means: "Spare ports bridged with a routed one; its address, zone, leases and rules move to a VLAN interface.",
  asks: { label: "Routed port, and a name", placeholder: "2 workshop", needed: true },
  wanted: (c, text) => {
    const [routed, ...name] = text.split(/\s+/);
    return routed && name.length > 0 ? { action: "join-routed", body: { device: c.device, routed, ports: list(c), name: name.join("-") } } : null;
  },
};
const PHONE: Job = {
  id: "phone-and-desk",
  words: "Phone and desk",
  means: "The desk's VLAN stays without tags; the voice VLAN is added with its tag.",
  asks: { label: "Voice VLAN", placeholder: "the plan's", needed: false },
  alone: true,
  wanted: (c, text) => ({ action: "phone-and-desk", body: { device: c.device, ports: list(c), desk: null, phone: number(text) } }),
};
const ONLY: Job = {
  id: "only-theirs",
  words: "Only their VLAN",
  means: "Each port stays in the VLAN of its PVID and leaves all others.",
  asks: null,
  alone: true,
  wanted: (c) => ({ action: "only-theirs", body: { device: c.device, ports: list(c) } }),
};
const RENAME: Job = {
  id: "rename-ports",
  words: "Rename",
  means: "One new name a port, in this order; whatever names a port follows.",
  asks: { label: "New names", placeholder: "1/0/1-24, or a-d", needed: true },
  wanted: (c, names) => ({ action: "rename-ports", body: { device: c.device, ports: list(c), names } }),
};
const REMOVE: Job = {
  id: "remove-ports",
  words: "Take out",
  means: "The ports go, with their cables and whatever leans on them.",
  asks: null,
  wanted: (c) => ({ action: "remove-ports", body: { device: c.device, ports: list(c) } }),
};

/** What can be made of ports of this kind of box. */
export function jobsFor(kind: string): Job[] {
  if (kind === "firewall") return [BUNDLE, LITTLE_SWITCH, JOIN, INLINE, ONLY, RENAME, REMOVE];
  return kind === "router" ? [BUNDLE, JOIN, RENAME, REMOVE] : [BUNDLE, PHONE, ONLY, JOIN, RENAME, REMOVE];
}

/** What to ask of the server; null = too little is said. */
export function wantedOf(job: Job, chosen: Chosen, text: string): Wanted | null {
  const said = text.trim();
  return chosen.ports.length === 0 || (job.asks?.needed && said === "") ? null : job.wanted(chosen, said);
}
