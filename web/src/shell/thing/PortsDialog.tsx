import { useState } from "react";
import { useMakePreview } from "../../api/making";
import { JobDialog } from "../../parts/JobDialog";
import type { StageProps } from "../parts";

/** More ports of a box, by a pattern. */
export function PortsDialog({ design, device, change, onClose }: Pick<StageProps, "design" | "change"> & { device: string; onClose: () => void }) {
  const [ports, setPorts] = useState("");
  const preview = useMakePreview(design, ports.trim() === "" ? null : { action: "new-ports", body: { device, ports } });
  return (
    <JobDialog
      title={`Ports of ${device}`}
      verb="Add them"
      change={change}
      preview={ports.trim() === "" ? null : preview}
      hint="A range stands for each of its numbers or letters."
      onClose={onClose}
    >
      <label className="flex flex-col gap-1">
        <span className="muted text-[12px]">How they are called</span>
        <input
          className="hair bg-base-100 h-8 rounded border px-2 font-mono"
          placeholder="1-24, or 1/0/1-24, or a-d"
          value={ports}
          onChange={(e) => setPorts(e.target.value)}
        />
      </label>
    </JobDialog>
  );
}
