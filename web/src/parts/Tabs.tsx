interface Props {
  label: string;
  names: string[];
  chosen: string;
  onChoose: (name: string) => void;
}

/** A row of names, one of them chosen; arrows move along it. */
export function Tabs({ label, names, chosen, onChoose }: Props) {
  const step = (by: number) => {
    const next = names[(names.indexOf(chosen) + by + names.length) % names.length];
    if (next !== undefined) onChoose(next);
  };
  return (
    <div
      role="tablist"
      aria-label={label}
      className="flex max-w-full gap-3 overflow-x-auto"
      onKeyDown={(e) => {
        if (e.key === "ArrowRight") step(1);
        if (e.key === "ArrowLeft") step(-1);
      }}
    >
      {names.map((name) => (
        <button
          key={name}
          type="button"
          role="tab"
          aria-selected={name === chosen}
          tabIndex={name === chosen ? 0 : -1}
          className={`cursor-pointer border-b-2 px-0.5 whitespace-nowrap ${name === chosen ? "border-primary font-medium" : "muted border-transparent"}`}
          onClick={() => onChoose(name)}
        >
          {name}
        </button>
      ))}
    </div>
  );
}
