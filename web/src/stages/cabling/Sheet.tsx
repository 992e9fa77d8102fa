import type { ReactNode, Ref, SVGProps } from "react";
import type { Placed } from "./model";

interface Props {
  ref: Ref<SVGSVGElement>;
  label: string;
  placed: Placed;
  /** Drawn size over natural size. */
  scale: number;
  /** What it does with a pointer. */
  hands?: Pick<SVGProps<SVGSVGElement>, "onPointerDown" | "onPointerMove" | "onPointerUp" | "onPointerLeave">;
  children: ReactNode;
}

/** What a drawing stands on: as large as the layout made it, with room for the lines at its rim. */
export function Sheet({ ref, label, placed, scale, hands, children }: Props) {
  return (
    <svg
      ref={ref}
      width={placed.width * scale}
      height={(placed.height + 8) * scale}
      viewBox={`0 -4 ${placed.width} ${placed.height + 8}`}
      role="group"
      aria-label={label}
      className="mx-auto block font-sans select-none"
      {...hands}
    >
      {children}
    </svg>
  );
}
