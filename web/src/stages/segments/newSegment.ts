import type { Schemas } from "../../api/client";

export type Options = Schemas["SegmentOptions"];
export type Purpose = Schemas["NewSegment"]["purpose"];

/** What a person has typed so far; null = not said, and the program proposes. */
export interface SegmentForm {
  name: string;
  purpose: Purpose;
  vlan: string | null;
  subnet: string | null;
  firewall: string | null;
  port: string | null;
  zone: string | null;
  ports: string[];
  /** Whether its hosts may ask the outside. */
  out: boolean;
}

export const emptySegment: SegmentForm = {
  name: "",
  purpose: "inside",
  vlan: null,
  subnet: null,
  firewall: null,
  port: null,
  zone: null,
  ports: [],
  out: true,
};

/** The firewall and port that are proposed until another is chosen. */
export function proposed(form: SegmentForm, options: Options): { vlan: string; firewall: string; port: string } {
  const firewall = form.firewall ?? Object.keys(options.firewalls)[0] ?? "";
  return { vlan: form.vlan ?? String(options.vlan), firewall, port: form.port ?? options.firewalls[firewall]?.[0] ?? "" };
}

/** What to ask the server for; null while too little is known. */
export function wantedOf(form: SegmentForm, options: Options): Schemas["NewSegment"] | null {
  const { vlan, firewall, port } = proposed(form, options);
  const number = Number(vlan);
  if (form.name.trim() === "" || !Number.isInteger(number) || number < 1 || number > 4094) return null;
  const routed = form.purpose !== "switched";
  const subnet = form.subnet?.trim();
  return {
    name: form.name.trim(),
    purpose: form.purpose,
    vlan: number,
    ports: form.ports,
    way_out: form.out,
    ...(routed && subnet ? { subnet } : {}),
    ...(routed ? { firewall, port } : {}),
    ...(routed && form.zone ? { zone: form.zone } : {}),
  };
}

/** Ports by device, in the order they stand. */
export function byDevice(ports: string[]): [string, string[]][] {
  const out = new Map<string, string[]>();
  for (const place of ports) {
    const [device = "", port = ""] = place.split(":");
    out.set(device, [...(out.get(device) ?? []), port]);
  }
  return [...out];
}
