import { useVirtualizer } from "@tanstack/react-virtual";
import { type RefObject, useEffect, useLayoutEffect, useRef, useState } from "react";

/** From how many entries on only what is in sight is drawn. */
const MANY = 30;

/** What measures a drawn entry; null where all are drawn. */
export type Measure = ((node: Element | null) => void) | null;

export interface Long<E extends HTMLElement> {
  /** The element the entries stand in; it lies somewhere in what carries `data-scrolls`. */
  frame: RefObject<E | null>;
  /** Which of them are drawn, by their place among all. */
  drawn: number[];
  /** Pixels of what is not drawn before and after them. */
  above: number;
  below: number;
  /** A drawn entry is given it as its ref, and says its place in `data-index`. */
  measure: Measure;
}

interface Options {
  count: number;
  /** Pixels an entry is high until it is measured. */
  heightOf: (place: number) => number;
  keyOf?: (place: number) => string | number;
  /** The place of the selected entry, brought into sight when it changes; -1 = none. */
  lit: number;
}

/** A long list that draws only what is in sight; a short one is drawn whole. */
export function useLong<E extends HTMLElement>({ count, heightOf, keyOf, lit }: Options): Long<E> {
  const frame = useRef<E>(null);
  const [margin, setMargin] = useState(0);
  const many = count > MANY;
  const scroller = () => frame.current?.closest<HTMLElement>("[data-scrolls]") ?? null;
  // eslint-disable-next-line react-hooks/exhaustive-deps -- whatever stands above may have grown; it settles, less than a pixel is no change
  useLayoutEffect(() => {
    const around = scroller();
    if (!many || !frame.current || !around) return;
    const from = frame.current.getBoundingClientRect().top - around.getBoundingClientRect().top + around.scrollTop;
    setMargin((was) => (Math.abs(was - from) < 1 ? was : from));
  });
  // eslint-disable-next-line react-hooks/incompatible-library -- the list is redrawn on every scroll on purpose
  const down = useVirtualizer({
    count,
    enabled: many,
    getScrollElement: scroller,
    estimateSize: heightOf,
    overscan: 4,
    scrollMargin: margin,
    getItemKey: (k) => keyOf?.(k) ?? k,
  });
  useEffect(() => {
    if (lit >= 0 && many) down.scrollToIndex(lit, { align: "auto" });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only when another thing is selected
  }, [lit]);
  const items = many ? down.getVirtualItems() : null;
  return {
    frame,
    drawn: items ? items.map((v) => v.index) : Array.from({ length: count }, (_, k) => k),
    above: items ? (items[0]?.start ?? margin) - margin : 0,
    below: items ? down.getTotalSize() + margin - (items.at(-1)?.end ?? margin) : 0,
    measure: items ? down.measureElement : null,
  };
}
