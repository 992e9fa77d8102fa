import { useEffect } from "react";
import { isTable } from "./model";

/** Hear of a table that is pasted anywhere but into a field. */
export function usePasted(listens: boolean, onTable: (text: string) => void) {
  useEffect(() => {
    if (!listens) return;
    const heard = (e: ClipboardEvent) => {
      const into = e.target instanceof HTMLElement && e.target.closest("input, textarea, select, [contenteditable], dialog");
      const text = e.clipboardData?.getData("text/plain") ?? "";
      if (!into && isTable(text)) onTable(text);
    };
    document.addEventListener("paste", heard);
    return () => document.removeEventListener("paste", heard);
  }, [listens, onTable]);
}
