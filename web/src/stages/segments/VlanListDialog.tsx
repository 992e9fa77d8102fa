import { useState } from "react";
import { useMakePreview } from "../../api/making";
import { Dialog } from "../../parts/Dialog";
import { PreviewBox } from "../../parts/PreviewBox";
import type { StageProps } from "../../shell/parts";

/** A pasted list of VLANs: a line each, number, name and subnets in any order of columns. */
export function VlanListDialog({ design, change, onClose }: StageProps & { onClose: () => void }) {
  const [text, setText] = useState("");
  const preview = useMakePreview(design, text.trim() === "" ? null : { action: "vlan-list", body: { text } });
  const ready = text.trim() !== "" && preview.data !== undefined && !preview.isError && !preview.isPlaceholderData;
  return (
    <Dialog label="Paste VLANs" onClose={onClose} wide>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (!ready) return;
          change.mutate({ kind: "patch", patch: preview.data.patch });
          onClose();
        }}
      >
        <h2 className="text-lg font-semibold">Paste VLANs</h2>
        <textarea
          className="hair bg-base-100 h-40 rounded border p-2 font-mono text-[12px]"
          aria-label="A line each"
          placeholder={"10  staff    10.20.10.0/24\n20  guests   10.20.20.0/24"}
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
        <PreviewBox
          preview={text.trim() === "" ? null : preview}
          hint="A line each: number, name and subnets, between blanks, tabs, commas or semicolons. What stands there already is left alone."
        />
        <button type="submit" className="btn btn-primary btn-sm self-end" disabled={!ready}>
          Add them
        </button>
      </form>
    </Dialog>
  );
}
