import { type PointerEvent, useState } from "react";

/** Pixels a pointer moves before it is a drag and no click. */
const DRAG = 6;

interface Point {
  x: number;
  y: number;
}

export interface Lead {
  /** A box, or box:port. */
  from: string;
  /** In the drawing's own lengths. */
  start: Point;
  now: Point;
}

/** What a place of the drawing stands for: a free port, or else a box. */
function endAt(element: Element | null): string | null {
  return element?.closest("[data-jack]")?.getAttribute("data-jack") ?? element?.closest("[data-box]")?.getAttribute("data-box") ?? null;
}

/** Lead a cable by dragging from one box (or free port) to another. */
export function useLeading(onLead: (from: string, to: string) => void) {
  const [held, setHeld] = useState<{ from: string; at: Point } | null>(null);
  const [lead, setLead] = useState<Lead | null>(null);
  const inside = (svg: SVGSVGElement, { x, y }: Point): Point => {
    const at = new DOMPoint(x, y).matrixTransform(svg.getScreenCTM()?.inverse());
    return { x: at.x, y: at.y };
  };
  const drop = () => (setHeld(null), setLead(null));
  return {
    lead,
    hands: {
      onPointerDown: (e: PointerEvent<SVGSVGElement>) => {
        const from = e.button === 0 && e.target instanceof Element ? endAt(e.target) : null;
        setHeld(from === null ? null : { from, at: { x: e.clientX, y: e.clientY } });
      },
      onPointerMove: (e: PointerEvent<SVGSVGElement>) => {
        if (!held) return;
        const at = { x: e.clientX, y: e.clientY };
        if (e.buttons !== 1) return drop();
        if (!lead && Math.hypot(at.x - held.at.x, at.y - held.at.y) < DRAG) return;
        setLead({ from: held.from, start: inside(e.currentTarget, held.at), now: inside(e.currentTarget, at) });
      },
      onPointerUp: (e: PointerEvent<SVGSVGElement>) => {
        const to = lead && endAt(document.elementFromPoint(e.clientX, e.clientY));
        if (lead && to && to.split(":")[0] !== lead.from.split(":")[0]) onLead(lead.from, to);
        drop();
      },
      onPointerLeave: drop,
    },
  };
}
