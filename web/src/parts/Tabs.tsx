import * as Radix from "@radix-ui/react-tabs";
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
    <Radix.Root value={chosen} onValueChange={onChoose} className="max-w-full min-w-0">
      <Radix.List aria-label={label} className="flex max-w-full gap-3 overflow-x-auto">
        {names.map((name) => (
          <Radix.Trigger
            key={name}
            value={name}
            aria-controls={undefined}
            className="data-[state=active]:border-primary data-[state=inactive]:muted cursor-pointer border-b-2 border-transparent px-0.5 whitespace-nowrap data-[state=active]:font-medium"
          >
            {words ? words(name) : name}
          </Radix.Trigger>
        ))}
      </Radix.List>
    </Radix.Root>
  );
}
