import { useState } from "react";
import { useMakePreview, useWaysOut } from "../../api/making";
import { JobDialog } from "../../parts/JobDialog";
import type { StageProps } from "../../shell/parts";

/** A way out to the internet: which port, which address, whose next hop; zone, route and translation follow. */
export function WayOutDialog({ design, change, onClose }: Pick<StageProps, "design" | "change"> & { onClose: () => void }) {
  const ways = useWaysOut(design);
  const [form, setForm] = useState<{ at: string | null; address: string | null; via: string | null; zone: string }>({
    at: null,
    address: null,
    via: null,
    zone: "street",
  });
  const way = ways.data?.find((w) => `${w.firewall}:${w.port}` === form.at) ?? ways.data?.[0];
  const address = (form.address ?? way?.address ?? "").trim();
  const via = (form.via ?? way?.via ?? "").trim();
  const full = way !== undefined && address !== "" && via !== "" && form.zone.trim() !== "";
  const preview = useMakePreview(
    design,
    full ? { action: "way-out", body: { firewall: way.firewall, port: way.port, address, via, zone: form.zone.trim() } } : null,
  );
  const field = "hair bg-base-100 h-8 rounded border px-2 font-mono";
  return (
    <JobDialog
      title="A way out to the internet"
      verb="Make it"
      change={change}
      preview={full ? preview : null}
      hint="The address the carrier gave this firewall, and whom it sends to."
      wide
      onClose={onClose}
    >
      {ways.data?.length === 0 && <p className="muted">No firewall is cabled to an outside or a router yet. Lead a cable there first.</p>}
      <div className="grid grid-cols-4 gap-3">
        <label className="flex flex-col gap-1">
          <span className="muted text-[12px]">by</span>
          <select
            className="select select-sm h-8"
            value={way ? `${way.firewall}:${way.port}` : ""}
            onChange={(e) => setForm({ ...form, at: e.target.value, address: null, via: null })}
          >
            {ways.data?.map((w) => (
              <option key={`${w.firewall}:${w.port}`}>{`${w.firewall}:${w.port}`}</option>
            ))}
          </select>
        </label>
        <label className="flex flex-col gap-1">
          <span className="muted text-[12px]">own address</span>
          <input
            className={field}
            placeholder="198.51.100.2/30"
            value={form.address ?? way?.address ?? ""}
            onChange={(e) => setForm({ ...form, address: e.target.value })}
          />
        </label>
        <label className="flex flex-col gap-1">
          <span className="muted text-[12px]">next hop</span>
          <input className={field} placeholder="198.51.100.1" value={form.via ?? way?.via ?? ""} onChange={(e) => setForm({ ...form, via: e.target.value })} />
        </label>
        <label className="flex flex-col gap-1">
          <span className="muted text-[12px]">zone</span>
          <input className={field} value={form.zone} onChange={(e) => setForm({ ...form, zone: e.target.value })} />
        </label>
      </div>
    </JobDialog>
  );
}
