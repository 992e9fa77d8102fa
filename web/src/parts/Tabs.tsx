import * as Kit from "@radix-ui/react-tabs";
import type { ReactNode } from "react";

interface Props {
  label: string;
  names: string[];
  chosen: string;
  onChoose: (name: string) => void;
  /** What stands on a tab; else its name. */
  words?: (name: string) => ReactNode;
}

/** A row of names, one of them chosen; what is chosen stands on the rest of the page. Arrows, Home and End move along it. */
export function Tabs({ label, names, chosen, onChoose, words }: Props) {
  return (
    <Kit.Root value={chosen} onValueChange={onChoose} className="max-w-full min-w-0">
      <Kit.List aria-label={label} className="flex max-w-full gap-3 overflow-x-auto">
        {names.map((name) => (
          <Kit.Trigger
            key={name}
            value={name}
            aria-controls={undefined}
            className="aria-selected:border-primary not-aria-selected:muted cursor-pointer border-b-2 border-transparent px-0.5 whitespace-nowrap aria-selected:font-medium"
          >
            {words ? words(name) : name}
          </Kit.Trigger>
        ))}
      </Kit.List>
    </Kit.Root>
  );
}
