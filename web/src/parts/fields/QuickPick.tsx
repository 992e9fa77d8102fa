import { useChoices } from "../../api/making";

interface Props {
  design: string;
  /** What kind of thing is named. */
  names: string;
  /** The pointer of the thing that names it. */
  at: string;
  label: string;
  value: string | null;
  /** What stands where nothing is named. */
  none: string;
  onPick: (value: string | null) => void;
}

/** A name in a table, changed where it stands. */
export function QuickPick({ design, names, at, label, value, none, onPick }: Props) {
  const known = useChoices(design, names, at);
  const options = known.data?.map((c) => String(c.value)) ?? [];
  return (
    <select
      className={`select select-ghost select-xs h-6 w-auto max-w-36 pl-1 ${value === null ? "muted" : ""}`}
      aria-label={label}
      value={value ?? ""}
      onChange={(e) => onPick(e.target.value === "" ? null : e.target.value)}
    >
      <option value="">{none}</option>
      {value !== null && !options.includes(value) && <option value={value}>{value}</option>}
      {options.map((o) => (
        <option key={o} value={o}>
          {o}
        </option>
      ))}
    </select>
  );
}
