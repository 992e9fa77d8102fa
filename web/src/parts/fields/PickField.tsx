import { useChoices, type FormField } from "../../api/making";
import { leftOut } from "./model";

interface Props {
  design: string;
  at: string;
  field: FormField;
  value: unknown;
  onPut: (value: string | number | undefined) => void;
  /** What is meant where nothing is said; defaults to what the form says. */
  byDefault?: string;
  /** Make a new one, where the field names things that can be made here. */
  onNew?: (() => void) | undefined;
}

const NEW = " new"; // no name begins with a blank

/** One of several: a word of the format, or a thing of the design by its name. */
export function PickField({ design, at, field, value, byDefault = "", onPut, onNew }: Props) {
  const known = useChoices(design, field.editor === "ref" ? field.ref : null, at);
  const now = value === undefined || value === null ? "" : String(value);
  const options =
    field.editor === "ref"
      ? (known.data ?? []).map((c) => ({ value: String(c.value), words: c.label ? `${c.value} ${c.label}` : String(c.value) }))
      : field.choices.map((c) => ({ value: String(c), words: String(c).replaceAll("_", " ") }));
  const meant = byDefault || leftOut(field);
  return (
    <select
      className="select select-xs h-6 w-full"
      aria-label={field.title}
      data-key={field.key}
      value={now}
      onChange={(e) => {
        if (e.target.value === NEW) return onNew?.();
        onPut(e.target.value === "" ? undefined : field.number ? Number(e.target.value) : e.target.value);
      }}
    >
      {(!field.required || now === "") && <option value="">{meant ? `(${meant})` : "—"}</option>}
      {now !== "" && !options.some((o) => o.value === now) && <option value={now}>{now}</option>}
      {options.map((o) => (
        <option key={o.value} value={o.value}>
          {o.words}
        </option>
      ))}
      {onNew && <option value={NEW}>new…</option>}
    </select>
  );
}
