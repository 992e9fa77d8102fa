import { useCallback, useEffect, useRef } from "react";

/** A function that stays the same while what it does is the latest: what it is given to need not be drawn anew. For events only, not while drawing. */
export function useSteady<A extends unknown[]>(act: (...what: A) => void): (...what: A) => void {
  const latest = useRef(act);
  useEffect(() => {
    latest.current = act;
  });
  return useCallback((...what: A) => latest.current(...what), []);
}
