import { X } from "lucide-react";
import { useState } from "react";
import type { FormField } from "../../api/making";
import type { Plain } from "./model";

interface Props {
  field: FormField;
  value: unknown;
  onPut: (value: Plain | undefined) => void;
}

/** Names with values of their own: traits, further options, tags that are changed. */
export function MapField({ field, value, onPut }: Props) {
  const entries = Object.entries((value ?? {}) as Record<string, string | number>);
  const [adding, setAdding] = useState({ key: "", text: "" });
  const put = (next: [string, string | number][]) => onPut(next.length > 0 ? Object.fromEntries(next) : undefined);
  const read = (text: string) => ((field.key === "translate" || field.key === "traits") && /^\d+$/.test(text) ? Number(text) : text);
  const add = () => {
    if (adding.key.trim() === "" || adding.text.trim() === "") return;
    put([...entries.filter(([k]) => k !== adding.key.trim()), [adding.key.trim(), read(adding.text.trim())]]);
    setAdding({ key: "", text: "" });
  };
  const line = "hair bg-base-100 h-6 min-w-0 flex-1 rounded border px-1 font-mono text-[12px]";
  return (
    <span className="flex flex-col gap-1 py-0.5" data-key={field.key}>
      {entries.map(([key, text]) => (
        <span key={key} className="flex items-center gap-1 font-mono text-[12px]">
          <span className="muted w-20 shrink-0 truncate">{key}</span>
          <span className="min-w-0 flex-1 truncate">{String(text)}</span>
          <button
            type="button"
            className="hover:bg-base-300 flex size-5 cursor-pointer items-center justify-center rounded"
            aria-label={`Take ${key} out of ${field.title}`}
            onClick={() => put(entries.filter(([k]) => k !== key))}
          >
            <X size={11} aria-hidden="true" />
          </button>
        </span>
      ))}
      <span className="flex items-center gap-1">
        <input
          className={line}
          aria-label={`${field.title}: name`}
          placeholder="name"
          value={adding.key}
          onChange={(e) => setAdding({ ...adding, key: e.target.value })}
        />
        <input
          className={line}
          aria-label={`${field.title}: value`}
          placeholder="value"
          value={adding.text}
          onChange={(e) => setAdding({ ...adding, text: e.target.value })}
          onBlur={add}
          onKeyDown={(e) => e.key === "Enter" && (e.preventDefault(), add())}
        />
      </span>
    </span>
  );
}
