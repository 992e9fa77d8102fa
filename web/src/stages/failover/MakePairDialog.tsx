import { useState } from "react";
import { useMakePreview } from "../../api/making";
import { JobDialog } from "../../parts/JobDialog";
import type { StageProps } from "../../shell/parts";

/** Make one firewall a pair: what its two units are called; cables, heartbeats and watch list are proposed, and shown before. */
export function MakePairDialog({ design, change, device, onClose }: Pick<StageProps, "design" | "change"> & { device: string; onClose: () => void }) {
  const [names, setNames] = useState({ first: `${device}-a`, second: `${device}-b` });
  const ready = names.first.trim() !== "" && names.second.trim() !== "";
  const preview = useMakePreview(design, ready ? { action: "make-pair", body: { device, ...names } } : null);
  const field = "hair bg-base-100 h-8 rounded border px-2";
  return (
    <JobDialog
      title={`Make ${device} a pair`}
      verb="Make it a pair"
      change={change}
      preview={ready ? preview : null}
      hint="Both units have a name."
      wide
      onClose={onClose}
    >
      <div className="flex gap-3">
        <label className="flex flex-1 flex-col gap-1">
          <span className="muted text-[12px]">The box that is there</span>
          <input className={field} value={names.first} onChange={(e) => setNames({ ...names, first: e.target.value })} />
        </label>
        <label className="flex flex-1 flex-col gap-1">
          <span className="muted text-[12px]">The one that joins it</span>
          <input className={field} value={names.second} onChange={(e) => setNames({ ...names, second: e.target.value })} />
        </label>
      </div>
    </JobDialog>
  );
}
