import { useState } from "react";
import { useItem, useNewVlanPreview, useSuggestedSubnet } from "../../api/queries";
import { Dialog } from "../../parts/Dialog";
import { PreviewBox } from "../../parts/PreviewBox";
import { useSettled } from "../../parts/useSettled";
import type { StageProps } from "../../shell/parts";
import { columnsOf, type Grid } from "./model";
import { draftOf, emptyVlan, type VlanForm } from "./newVlan";

type Props = Pick<StageProps, "design" | "change"> & { grid: Grid; onClose: () => void };

/** A new VLAN in one action: its id, name, subnet, uplinks, ports and gateway, with everything it will change shown before. */
export function NewVlanDialog({ design, change, grid, onClose }: Props) {
  const [form, setForm] = useState<VlanForm>(emptyVlan(grid));
  const put = (part: Partial<VlanForm>) => setForm({ ...form, ...part });
  const suggested = useSuggestedSubnet(design, Number(form.id));
  const subnet = form.subnet ?? suggested.data ?? "";
  const typed = draftOf({ ...form, subnet });
  const wanted = useSettled(typed);
  const fresh = JSON.stringify(typed) === JSON.stringify(wanted);
  const preview = useNewVlanPreview(design, wanted);
  const columns = columnsOf(grid);
  const gateways = columns.filter((c) => c.kind === "routed");
  const firewall = grid.devices.find((d) => d.name === form.gateway?.split(":")[0]);
  const item = useItem(design, firewall?.pointer ?? "");
  const zones = zonesOf(item.data?.value);
  const turn = (key: "uplinks" | "ports", place: string) =>
    put({ [key]: form[key].includes(place) ? form[key].filter((p) => p !== place) : [...form[key], place] });
  return (
    <Dialog label="New VLAN" onClose={onClose} wide>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (!fresh || !preview.data) return;
          change.mutate({ kind: "patch", patch: preview.data.patch });
          onClose();
        }}
      >
        <h2 className="text-base font-semibold">New VLAN</h2>
        <div className="grid grid-cols-[5rem_1fr_1fr] gap-3">
          <Field label="id" value={form.id} onChange={(id) => put({ id })} />
          <Field label="name" value={form.name} onChange={(name) => put({ name })} />
          <Field label="subnet (empty: switched only)" value={subnet} onChange={(text) => put({ subnet: text })} mono />
        </div>
        <Picks
          title="Uplinks that carry it, tagged"
          places={columns.filter((c) => c.kind !== "routed" && (c.kind === "bundle" || c.far))}
          chosen={form.uplinks}
          onTurn={(p) => turn("uplinks", p)}
        />
        <Picks title="Ports whose hosts stand in it" places={columns.filter((c) => c.kind === "port")} chosen={form.ports} onTurn={(p) => turn("ports", p)} />
        <div className="flex flex-wrap items-end gap-3">
          <label className="flex flex-col gap-0.5">
            <span className="muted text-[12px]">gateway</span>
            <select className="select select-sm w-48" value={form.gateway ?? ""} onChange={(e) => put({ gateway: e.target.value || null, zone: null })}>
              <option value="">none</option>
              {gateways.map((g) => (
                <option key={g.pointer} value={`${g.device}:${g.name}`}>
                  {g.device} {g.name}
                </option>
              ))}
            </select>
          </label>
          {form.gateway && (
            <label className="flex flex-col gap-0.5">
              <span className="muted text-[12px]">zone</span>
              <select className="select select-sm w-40" value={form.zone ?? ""} onChange={(e) => put({ zone: e.target.value || null })}>
                <option value="">none yet</option>
                {zones.map((z) => (
                  <option key={z}>{z}</option>
                ))}
              </select>
            </label>
          )}
        </div>
        <PreviewBox preview={wanted ? preview : null} hint="Give it an id and a name, and what it will change is shown here." />
        <p className="flex justify-end gap-2">
          <button type="button" className="btn btn-ghost btn-sm" onClick={onClose}>
            Cancel
          </button>
          <button type="submit" className="btn btn-primary btn-sm" disabled={!fresh || !preview.data || preview.isError}>
            Make it
          </button>
        </p>
      </form>
    </Dialog>
  );
}

function zonesOf(value: unknown): string[] {
  if (value === null || typeof value !== "object" || !("zones" in value) || !Array.isArray(value.zones)) return [];
  return value.zones.filter((z: { kind?: string }) => (z.kind ?? "routed") === "routed").map((z: { name: string }) => z.name);
}

function Field({ label, value, onChange, mono = false }: { label: string; value: string; onChange: (text: string) => void; mono?: boolean }) {
  return (
    <label className="flex flex-col gap-0.5">
      <span className="muted text-[12px]">{label}</span>
      <input
        className={`hair bg-base-100 h-8 rounded border px-2 ${mono ? "font-mono text-[12px]" : ""}`}
        value={value}
        onChange={(e) => onChange(e.target.value)}
      />
    </label>
  );
}

interface PicksProps {
  title: string;
  places: ReturnType<typeof columnsOf>;
  chosen: string[];
  onTurn: (place: string) => void;
}

function Picks({ title, places, chosen, onTurn }: PicksProps) {
  const devices = [...new Set(places.map((p) => p.device))];
  return (
    <fieldset>
      <legend className="muted text-[12px]">{title}</legend>
      <div className="max-h-28 overflow-y-auto">
        {devices.map((device) => (
          <p key={device} className="flex flex-wrap items-center gap-1 py-0.5">
            <span className="w-24 shrink-0 truncate">{device}</span>
            {places
              .filter((p) => p.device === device)
              .map((p) => (
                <button
                  key={p.name}
                  type="button"
                  aria-pressed={chosen.includes(`${device}:${p.name}`)}
                  aria-label={`${device}:${p.name}`}
                  title={p.note ?? p.far ?? undefined}
                  className={`h-6 min-w-6 cursor-pointer rounded border px-1 font-mono text-[12px] ${chosen.includes(`${device}:${p.name}`) ? "bg-primary text-primary-content border-primary" : "hair hover:bg-base-200"}`}
                  onClick={() => onTurn(`${device}:${p.name}`)}
                >
                  {p.name}
                </button>
              ))}
          </p>
        ))}
      </div>
    </fieldset>
  );
}
