import { useState } from "react";
import type { Schemas } from "../api/client";
import { useRemoveVlanPreview } from "../api/queries";
import { Dialog } from "../parts/Dialog";
import { PreviewBox } from "../parts/PreviewBox";
import type { StageProps } from "./parts";

/** Take a VLAN out of everything: what uses it is listed first. */
export function RemoveVlan({ design, thing, change, select }: Pick<StageProps, "design" | "change" | "select"> & { thing: Schemas["Item"] }) {
  const [open, setOpen] = useState(false);
  const vlan = Number(thing.title.split(" ")[0]);
  const preview = useRemoveVlanPreview(design, open ? vlan : null);
  return (
    <>
      <button type="button" className="link-quiet text-error self-start" onClick={() => setOpen(true)}>
        Take this VLAN out…
      </button>
      {open && (
        <Dialog label="Take a VLAN out" onClose={() => setOpen(false)} wide>
          <h2 className="mb-2 text-base font-semibold">Take VLAN {thing.title} out</h2>
          <p className="mb-1">{thing.needed_by.length === 0 ? "Nothing uses it." : `${thing.needed_by.length} things use it, and lose it:`}</p>
          <p className="muted mb-3">{thing.needed_by.map((n) => `${n.kind} ${n.title}`).join(", ")}</p>
          <PreviewBox preview={preview} hint="" />
          <p className="mt-3 flex justify-end gap-2">
            <button type="button" className="btn btn-ghost btn-sm" onClick={() => setOpen(false)}>
              Keep it
            </button>
            <button
              type="button"
              className="btn btn-error btn-sm"
              disabled={!preview.data}
              onClick={() => {
                if (preview.data) change.mutate({ kind: "patch", patch: preview.data.patch });
                select(null);
              }}
            >
              Take it out
            </button>
          </p>
        </Dialog>
      )}
    </>
  );
}
