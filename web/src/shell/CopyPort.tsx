import { useState } from "react";
import { useCopyPreview } from "../api/queries";
import { PreviewBox } from "../parts/PreviewBox";
import type { StageProps } from "./parts";

/** Make other ports of the device like this one; what changes is shown before. */
export function CopyPort({ design, place, change }: Pick<StageProps, "design" | "change"> & { place: string }) {
  const [targets, setTargets] = useState("");
  const [device = "", port = ""] = place.split(":");
  const asked = targets.trim() === "" ? null : { device, port, targets };
  const preview = useCopyPreview(design, asked);
  return (
    <form
      className="flex flex-col gap-2"
      aria-label="Copy settings"
      onSubmit={(e) => {
        e.preventDefault();
        if (!preview.data || !asked) return;
        change.mutate({ kind: "patch", patch: preview.data.patch });
        setTargets("");
      }}
    >
      <label className="eyebrow" htmlFor="copy-targets">
        Copy its settings to
      </label>
      <div className="flex gap-2">
        <input id="copy-targets" className="hair bg-base-100 h-7 min-w-0 flex-1 rounded border px-2 font-mono text-[12px]" placeholder="ports, as 2-5, 8" value={targets} onChange={(e) => setTargets(e.target.value)} />
        <button type="submit" className="btn btn-primary btn-xs h-7" disabled={!preview.data || !asked}>
          Copy
        </button>
      </div>
      {asked && <PreviewBox preview={preview} hint="" />}
    </form>
  );
}
