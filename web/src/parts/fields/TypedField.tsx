import { useState } from "react";
import type { FormField } from "../../api/making";
import { leftOut } from "./model";

interface Props {
  field: FormField;
  value: unknown;
  /** The version of the draft on screen; typing begins on it. */
  version: number;
  onPut: (value: string | number | undefined, seen: number) => void;
}

/** One line of typing that is kept, whatever happens to the draft meanwhile, until it is stored. */
export function TypedField({ field, value, version, onPut }: Props) {
  const now = value === undefined || value === null ? "" : String(value);
  const [typed, setTyped] = useState<{ text: string; over: string; seen: number; sent: number | null } | null>(null);
  if (typed && typed.sent !== null && version !== typed.sent) setTyped(null); // stored, perhaps written another way; what is only shown early does not count
  const commit = () => {
    if (!typed || typed.text.trim() === typed.over) return setTyped(null);
    const text = typed.text.trim();
    onPut(text === "" ? undefined : field.editor === "number" && /^-?\d+$/.test(text) ? Number(text) : text, typed.seen);
    setTyped({ ...typed, sent: version });
  };
  const words = field.choices.map(String);
  return (
    <span className="flex items-center gap-1">
      {words.length > 0 && (
        <datalist id={`words ${field.key}`}>
          {words.map((w) => (
            <option key={w} value={w} />
          ))}
        </datalist>
      )}
      <input
        list={words.length > 0 ? `words ${field.key}` : undefined}
        inputMode={field.editor === "number" ? "numeric" : undefined}
        className={`hover:border-base-300 focus:border-base-content/40 w-full min-w-0 rounded border border-transparent bg-transparent px-1 py-0.5 ${field.key === "note" || field.key === "name" ? "" : "font-mono text-[12px]"}`}
        aria-label={field.title}
        data-key={field.key}
        title={typed?.text ?? now}
        placeholder={leftOut(field) || field.example}
        value={typed?.text ?? now}
        onChange={(e) => setTyped({ text: e.target.value, over: typed?.over ?? now, seen: typed?.seen ?? version, sent: null })}
        onBlur={commit}
        onKeyDown={(e) => {
          if (e.key === "Enter") {
            e.preventDefault();
            commit();
          }
          if (e.key === "Escape") setTyped(null);
        }}
      />
      {field.unit && <span className="muted shrink-0 text-[11px]">{field.unit}</span>}
    </span>
  );
}
