import * as Radix from "@radix-ui/react-radio-group";
import type { ReactNode } from "react";

interface Props<T extends string> {
  label: string;
  /** [value, words] in order. */
  options: [T, ReactNode][];
  chosen: T;
  onChoose: (value: T) => void;
}

/** One of a few, side by side: one stop for Tab, arrows move along it. */
export function Segmented<T extends string>({ label, options, chosen, onChoose }: Props<T>) {
  return (
    <Radix.Root value={chosen} onValueChange={(v) => onChoose(v as T)} aria-label={label} className="hair flex rounded border">
      {options.map(([value, words]) => (
        <Radix.Item
          key={value}
          value={value}
          className="data-[state=checked]:bg-neutral data-[state=checked]:text-neutral-content data-[state=unchecked]:hover:bg-base-200 flex cursor-pointer items-center gap-1 px-2 py-1 first-of-type:rounded-l last-of-type:rounded-r"
        >
          {words}
        </Radix.Item>
      ))}
    </Radix.Root>
  );
}
