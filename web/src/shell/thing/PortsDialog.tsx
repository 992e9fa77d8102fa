import { useState } from "react";
import { useMakePreview } from "../../api/making";
import { Dialog } from "../../parts/Dialog";
import { PreviewBox } from "../../parts/PreviewBox";
import type { StageProps } from "../parts";

/** More ports of a box, by a pattern. */
export function PortsDialog({ design, device, change, onClose }: Pick<StageProps, "design" | "change"> & { device: string; onClose: () => void }) {
  const [ports, setPorts] = useState("");
  const preview = useMakePreview(design, ports.trim() === "" ? null : { action: "new-ports", body: { device, ports } });
  const ready = ports.trim() !== "" && preview.data !== undefined && !preview.isError && !preview.isPlaceholderData;
  return (
    <Dialog label={`Ports of ${device}`} onClose={onClose}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (!ready) return;
          change.mutate({ kind: "patch", patch: preview.data.patch });
          onClose();
        }}
      >
        <h2 className="text-lg font-semibold">Ports of {device}</h2>
        <label className="flex flex-col gap-1">
          <span className="muted text-[12px]">How they are called</span>
          <input
            className="hair bg-base-100 h-8 rounded border px-2 font-mono"
            placeholder="1-24, or 1/0/1-24, or a-d"
            value={ports}
            onChange={(e) => setPorts(e.target.value)}
          />
        </label>
        <PreviewBox preview={ports.trim() === "" ? null : preview} hint="A range stands for each of its numbers or letters." />
        <button type="submit" className="btn btn-primary btn-sm self-end" disabled={!ready}>
          Add them
        </button>
      </form>
    </Dialog>
  );
}
