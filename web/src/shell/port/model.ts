import type { Schemas } from "../../api/client";

export type FormKind = Schemas["ShortForm"]["form"];
export type ModeKind = Schemas["NewMode"]["mode"];

export const FORM_WORDS: Record<FormKind, string> = { access: "access: one VLAN, untagged", trunk: "trunk: these, tagged", voice: "desk: data and voice" };

export const MODE_WORDS: Record<ModeKind, string> = {
  bridged: "bridged",
  routed: "routed",
  inline: "inline pair",
  lag: "member of a bundle",
  heartbeat: "heartbeat",
  off: "off",
};

/** Read `110, 150-152` as numbers; null where something else stands there. */
export function vlansOf(text: string): number[] | null {
  const out: number[] = [];
  for (const part of text
    .split(",")
    .map((t) => t.trim())
    .filter(Boolean)) {
    const [, low, high] = /^(\d{1,4})(?:\s*-\s*(\d{1,4}))?$/.exec(part) ?? [];
    if (low === undefined) return null;
    for (let v = Number(low); v <= Number(high ?? low); v++) out.push(v);
  }
  return out;
}

/** What is asked of the server, or null while something it needs is missing. */
export function shortForm(typed: { device: string; ports: string; form: FormKind; vlan: string; tagged: string }): Schemas["ShortForm"] | null {
  const [vlan, ...more] = vlansOf(typed.vlan) ?? [];
  const tagged = vlansOf(typed.tagged);
  if (more.length > 0 || tagged === null || typed.ports.trim() === "") return null;
  if (typed.form !== "trunk" && vlan === undefined) return null;
  if (typed.form !== "access" && tagged.length === 0) return null;
  return { device: typed.device, ports: typed.ports, form: typed.form, vlan: vlan ?? null, tagged: typed.form === "access" ? [] : tagged };
}

export interface ModeForm {
  mode: ModeKind | "";
  zone: string;
  addresses: string;
  vlan: string;
  tagged: string;
  lag: string;
  pairWith: string;
}

export const emptyMode: ModeForm = { mode: "", zone: "", addresses: "", vlan: "", tagged: "", lag: "", pairWith: "" };

export function newMode(place: string, form: ModeForm): Schemas["NewMode"] | null {
  const [device = "", port = ""] = place.split(":");
  if (form.mode === "" || (form.mode === "lag" && form.lag.trim() === "")) return null;
  return {
    device,
    port,
    mode: form.mode,
    zone: form.zone || null,
    addresses: form.addresses
      .split(",")
      .map((t) => t.trim())
      .filter(Boolean),
    vlan: vlansOf(form.vlan)?.[0] ?? null,
    tagged: vlansOf(form.tagged) ?? [],
    lag: form.lag.trim() || null,
    pair_with: form.pairWith.trim() || null,
  };
}

/** The zones of a device that fit a mode. */
export function zonesFor(device: unknown, mode: string): string[] {
  if (device === null || typeof device !== "object" || !("zones" in device) || !Array.isArray(device.zones)) return [];
  return device.zones.filter((z: { kind?: string }) => (z.kind ?? "routed") === mode).map((z: { name: string }) => z.name);
}
