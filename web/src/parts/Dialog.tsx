import { type ReactNode, useEffect, useRef } from "react";

interface Props {
  label: string;
  onClose: () => void;
  /** Room for a form; defaults to false. */
  wide?: boolean;
  children: ReactNode;
}

/** A sheet over the workbench; Esc or a click beside it closes it. */
export function Dialog({ label, onClose, wide = false, children }: Props) {
  const box = useRef<HTMLDialogElement>(null);
  useEffect(() => {
    box.current?.showModal();
    box.current?.querySelector<HTMLElement>("input, textarea")?.focus();
  }, []);
  return (
    <dialog
      ref={box}
      aria-label={label}
      className={`bg-base-100 text-base-content hair m-auto text-left ${wide ? "mt-12 w-[46rem]" : "mt-24 w-[36rem]"} max-w-[90vw] rounded-md border p-5 shadow-xl backdrop:bg-black/25`}
      onClose={onClose}
      onClick={(e) => e.target === box.current && onClose()}
    >
      {children}
    </dialog>
  );
}
