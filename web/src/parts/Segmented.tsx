import { type ReactNode, useId } from "react";

interface Props<T extends string> {
  label: string;
  /** [value, words] in order. */
  options: [T, ReactNode][];
  chosen: T;
  onChoose: (value: T) => void;
  /** Where it stands within a line of text. */
  small?: boolean;
}

/** One of a few, side by side: the browser's own radio buttons, so one stop for Tab, and arrows move along it. */
export function Segmented<T extends string>({ label, options, chosen, onChoose, small = false }: Props<T>) {
  const group = useId();
  return (
    <fieldset aria-label={label} className="hair flex rounded border">
      {options.map(([value, words]) => (
        <label
          key={value}
          className={`${small ? "py-px text-[12px]" : "py-1"} has-checked:bg-neutral has-checked:text-neutral-content has-focus-visible:outline-primary hover:not-has-checked:bg-base-200 relative flex items-center gap-1 px-2 whitespace-nowrap outline-offset-1 first:rounded-l last:rounded-r has-focus-visible:outline-2`}
        >
          <input
            type="radio"
            className="absolute inset-0 cursor-pointer appearance-none outline-none"
            name={group}
            value={value}
            checked={value === chosen}
            onChange={() => onChoose(value)}
          />
          {words}
        </label>
      ))}
    </fieldset>
  );
}
