import { useState } from "react";
import { useCopyPreview } from "../../api/queries";
import type { StageProps } from "../parts";
import { ActionForm, Line } from "./ActionForm";

/** Make other ports of the device like this one; what changes is shown before. */
export function CopyPort({ design, place, change }: Pick<StageProps, "design" | "change"> & { place: string }) {
  const [targets, setTargets] = useState("");
  const [device = "", port = ""] = place.split(":");
  const asked = targets.trim() === "" ? null : { device, port, targets };
  const preview = useCopyPreview(design, asked);
  return (
    <ActionForm label="Copy its settings" verb="Copy" preview={asked && preview} change={change} onDone={() => setTargets("")}>
      <Line label="to ports" value={targets} onChange={setTargets} placeholder="2-5, 8" />
    </ActionForm>
  );
}
