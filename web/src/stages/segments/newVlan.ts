import type { Schemas } from "../../api/client";
import type { Grid } from "./model";

/** The form as typed; `subnet` null = not touched, the site's pattern fills it. */
export interface VlanForm {
  id: string;
  name: string;
  subnet: string | null;
  uplinks: string[];
  ports: string[];
  gateway: string | null;
  zone: string | null;
}

/** An empty form with the first free id after the plan's usual ones. */
export function emptyVlan(grid: Grid): VlanForm {
  const used = new Set(grid.rows.map((r) => r.vlan));
  const usual = [...used].filter((v) => v < 900);
  let id = Math.min(4094, (usual.length ? Math.max(...usual) : 0) + 10);
  while (used.has(id)) id += 1;
  return { id: String(id), name: "", subnet: null, uplinks: [], ports: [], gateway: null, zone: null };
}

/** What is asked of the server, or null while an id or a name is missing. */
export function draftOf(form: VlanForm): Schemas["NewVlan"] | null {
  if (!/^\d+$/.test(form.id.trim()) || form.name.trim() === "") return null;
  return {
    id: Number(form.id),
    name: form.name.trim(),
    subnet: form.subnet?.trim() || null,
    uplinks: form.uplinks,
    ports: form.ports,
    gateway: form.gateway,
    zone: form.zone,
  };
}
