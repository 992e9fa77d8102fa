import type { ReactNode } from "react";
import { type useMakePreview, workedOut } from "../api/making";
import type { useChange } from "../api/queries";
import { Dialog } from "./Dialog";
import { PreviewBox } from "./PreviewBox";

interface Props {
  title: string;
  /** On the button. */
  verb: string;
  change: Pick<ReturnType<typeof useChange>, "mutate">;
  /** Null while not everything is said; `hint` then says what is wanted. */
  preview: ReturnType<typeof useMakePreview> | null;
  hint: string;
  wide?: boolean;
  onClose: () => void;
  children: ReactNode;
}

/** A whole job in one edit: what to say of it, what it will change, and a button that does it. */
export function JobDialog({ title, verb, change, preview, hint, wide = false, onClose, children }: Props) {
  const made = preview && workedOut(preview);
  return (
    <Dialog label={title} onClose={onClose} wide={wide}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (!made) return;
          change.mutate({ kind: "patch", patch: made.patch });
          onClose();
        }}
      >
        <h2 className="text-lg font-semibold">{title}</h2>
        {children}
        <PreviewBox preview={preview} hint={hint} />
        <button type="submit" className="btn btn-primary btn-sm self-end" disabled={!made}>
          {verb}
        </button>
      </form>
    </Dialog>
  );
}
