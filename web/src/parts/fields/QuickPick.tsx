import { useState } from "react";
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

/** A name in a table, changed where it stands. What else there is, is asked for once a hand comes near: a table has hundreds of these. */
export function QuickPick({ design, names, at, label, value, none, onPick }: Props) {
  const [near, setNear] = useState(false);
  const known = useChoices(design, near ? names : null, at);
  const options = known.data?.map((c) => String(c.value)) ?? [];
  return (
    <select
      className={`select select-ghost select-xs h-6 w-auto max-w-36 pl-1 ${value === null ? "muted" : ""}`}
      aria-label={label}
      aria-busy={near && known.isPending}
      onPointerEnter={() => setNear(true)}
      onFocus={() => setNear(true)}
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
