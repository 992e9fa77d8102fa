import { type ReactNode, useEffect, useRef } from "react";

/** A sheet over the workbench; Esc or a click beside it closes it. */
export function Dialog({ label, onClose, children }: { label: string; onClose: () => void; children: ReactNode }) {
  const box = useRef<HTMLDialogElement>(null);
  useEffect(() => {
    box.current?.showModal();
    box.current?.querySelector<HTMLElement>("input")?.focus();
  }, []);
  return (
    <dialog
      ref={box}
      aria-label={label}
      className="bg-base-100 text-base-content hair m-auto mt-24 w-[36rem] max-w-[90vw] rounded-md border p-5 shadow-xl backdrop:bg-black/25"
      onClose={onClose}
      onClick={(e) => e.target === box.current && onClose()}
    >
      {children}
    </dialog>
  );
}
