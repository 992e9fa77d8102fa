import { useState } from "react";
import { useMakePreview } from "../../api/making";
import { JobDialog } from "../../parts/JobDialog";
import type { StageProps } from "../../shell/parts";

/** A pasted list of VLANs: a line each, number, name and subnets in any order of columns. */
export function VlanListDialog({ design, change, onClose }: StageProps & { onClose: () => void }) {
  const [text, setText] = useState("");
  const preview = useMakePreview(design, text.trim() === "" ? null : { action: "vlan-list", body: { text } });
  return (
    <JobDialog
      title="Paste VLANs"
      verb="Add them"
      change={change}
      preview={text.trim() === "" ? null : preview}
      hint="A line each: number, name and subnets, between blanks, tabs, commas or semicolons. What stands there already is left alone."
      wide
      onClose={onClose}
    >
      <textarea
        className="hair bg-base-100 h-40 rounded border p-2 font-mono text-[12px]"
        aria-label="A line each"
        placeholder={"10  staff    10.20.10.0/24\n20  guests   10.20.20.0/24"}
        value={text}
        onChange={(e) => setText(e.target.value)}
      />
    </JobDialog>
  );
}
