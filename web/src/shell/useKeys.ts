import { useEffect, useRef } from "react";

/** Keys by name (`/`, `mod+z`, `Escape`), heard wherever nobody is typing; those of a single letter only while they are on. */
export function useKeys(keys: Record<string, () => unknown>, letters: boolean): void {
  const current = useRef(keys);
  useEffect(() => {
    current.current = letters ? keys : Object.fromEntries(Object.entries(keys).filter(([name]) => name.length > 1));
  });
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      const typing = target.isContentEditable || ["INPUT", "TEXTAREA", "SELECT"].includes(target.tagName);
      const mod = event.ctrlKey || event.metaKey;
      if (event.defaultPrevented || event.altKey || (typing && event.key !== "Escape")) return;
      if (event.key === "Escape" && document.querySelector("dialog[open]")) return; // the sheet closes itself
      const name = mod ? `mod+${event.shiftKey ? "shift+" : ""}${event.key.toLowerCase()}` : event.key;
      const action = current.current[name];
      if (action) {
        event.preventDefault();
        action();
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
}
