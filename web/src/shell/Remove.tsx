import { useState } from "react";
import type { Schemas } from "../api/client";
import { useRemovePreview } from "../api/queries";
import { Dialog } from "../parts/Dialog";
import { PreviewBox } from "../parts/PreviewBox";
import type { StageProps } from "./parts";

/** Take a thing out: what leans on it is listed first, and goes or changes with it in one edit. */
export function Remove({ design, thing, change, select }: Pick<StageProps, "design" | "change" | "select"> & { thing: Schemas["Item"] }) {
  const [open, setOpen] = useState(false);
  const preview = useRemovePreview(design, open ? thing.pointer : null);
  const used = thing.needed_by.length;
  return (
    <>
      <button type="button" className="link-quiet text-error self-start" onClick={() => setOpen(true)}>
        Take it out…
      </button>
      {open && (
        <Dialog label="Take a thing out" onClose={() => setOpen(false)} wide>
          <h2 className="mb-2 text-base font-semibold">
            Take {thing.kind} {thing.title} out
          </h2>
          <p className="mb-3">
            {used === 0
              ? "Nothing uses it."
              : `${used} ${used === 1 ? "thing leans on it, and goes or changes" : "things lean on it, and go or change"} with it in the same edit.`}
          </p>
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
