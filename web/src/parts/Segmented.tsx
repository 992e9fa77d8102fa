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
  const step = (by: number, group: HTMLElement) => {
    const at = (options.findIndex(([v]) => v === chosen) + by + options.length) % options.length;
    const next = options[at];
    if (!next) return;
    onChoose(next[0]);
    (group.children[at] as HTMLElement | undefined)?.focus();
  };
  return (
    <div
      role="radiogroup"
      aria-label={label}
      className="hair flex rounded border"
      onKeyDown={(e) => {
        const by = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[e.key];
        if (by === undefined) return;
        e.preventDefault();
        step(by, e.currentTarget);
      }}
    >
      {options.map(([value, words]) => (
        <button
          key={value}
          type="button"
          role="radio"
          aria-checked={value === chosen}
          tabIndex={value === chosen ? 0 : -1}
          className={`flex cursor-pointer items-center gap-1 px-2 py-1 first:rounded-l last:rounded-r ${value === chosen ? "bg-neutral text-neutral-content" : "hover:bg-base-200"}`}
          onClick={() => onChoose(value)}
        >
          {words}
        </button>
      ))}
    </div>
  );
}
