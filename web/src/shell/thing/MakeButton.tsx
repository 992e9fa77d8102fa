import { Plus } from "lucide-react";
import { useState } from "react";
import type { StageProps } from "../parts";
import { MakeDialog } from "./MakeDialog";

interface Props extends Pick<StageProps, "design" | "change" | "select"> {
  kind: string;
  /** The pointer of the owner. */
  at: string;
  /** The kind of the device it becomes part of. */
  owner: string;
  label: string;
  /** Defaults to a small one. */
  className?: string;
}

/** A button that opens the form of a new thing. */
export function MakeButton({ label, className = "btn btn-outline btn-xs", ...what }: Props) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <button type="button" className={className} onClick={() => setOpen(true)}>
        <Plus size={12} aria-hidden="true" /> {label}
      </button>
      {open && <MakeDialog {...what} onClose={() => setOpen(false)} />}
    </>
  );
}
