import { useEffect, useState } from "react";

/** The value once it has stood still for a moment: what is being typed is not asked about letter by letter. `ms` defaults to 250. */
export function useSettled<T>(value: T, ms = 250): T {
  const text = JSON.stringify(value);
  const [settled, setSettled] = useState(text);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(text), ms);
    return () => clearTimeout(timer);
  }, [text, ms]);
  return JSON.parse(settled) as T;
}
