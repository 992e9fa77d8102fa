import { X } from "lucide-react";
import { useId, useState } from "react";
import { useChoices, type FormField } from "../../api/making";
import { leftOut, listed, type Plain, wordsOf } from "./model";

interface Props {
  design: string;
  at: string;
  field: FormField;
  value: unknown;
  onPut: (value: Plain | undefined) => void;
}

/** Several names or texts: each a chip one can take out, and a line to add one. */
export function ChipsField({ design, at, field, value, onPut }: Props) {
  const words = wordsOf(value);
  const known = useChoices(design, field.editor === "refs" ? field.ref : null, at);
  const [text, setText] = useState("");
  const list = useId();
  const offers = [
    ...(known.data ?? []).map((c) => ({ value: String(c.value), label: c.label })),
    ...field.choices.map((c) => ({ value: String(c), label: "" })),
    ...(field.any ? [{ value: "any", label: "" }] : []),
  ].filter((o, k, all) => !words.includes(o.value) && all.findIndex((x) => x.value === o.value) === k);
  const label = (word: string) => known.data?.find((c) => String(c.value) === word)?.label ?? "";
  const add = (typed: string) => {
    const more = typed
      .split(",")
      .map((w) => w.trim())
      .filter((w) => w !== "" && !words.includes(w));
    setText("");
    if (more.length > 0) onPut(listed(field, [...words.filter((w) => w !== "any" || field.editor !== "refs"), ...more]));
  };
  return (
    <span className="flex flex-wrap items-center gap-1 py-0.5" data-list={field.key}>
      {words.map((word) => (
        <span key={word} className="bg-base-200 hair flex items-center gap-0.5 rounded border pl-1.5 font-mono text-[12px]" title={label(word)}>
          {word}
          {label(word) && <span className="muted max-w-24 truncate font-sans text-[11px]">{label(word)}</span>}
          <button
            type="button"
            className="hover:bg-base-300 flex size-5 cursor-pointer items-center justify-center rounded"
            aria-label={`Take ${word} out of ${field.title}`}
            onClick={() =>
              onPut(
                listed(
                  field,
                  words.filter((w) => w !== word),
                ),
              )
            }
          >
            <X size={11} aria-hidden="true" />
          </button>
        </span>
      ))}
      <datalist id={list}>
        {offers.map((o) => (
          <option key={o.value} value={o.value}>
            {o.label}
          </option>
        ))}
      </datalist>
      <input
        list={list}
        className="hover:border-base-300 focus:border-base-content/40 min-w-16 flex-1 rounded border border-transparent bg-transparent px-1 py-0.5 font-mono text-[12px]"
        aria-label={`Add to ${field.title}`}
        data-key={field.key}
        placeholder={words.length === 0 ? leftOut(field) || field.example || "add…" : "add…"}
        value={text}
        onChange={(e) =>
          offers.some((o) => o.value === e.target.value) && !(e.nativeEvent instanceof InputEvent && e.nativeEvent.inputType === "insertText")
            ? add(e.target.value)
            : setText(e.target.value)
        }
        onBlur={() => add(text)}
        onKeyDown={(e) => {
          if (e.key === "Enter") {
            e.preventDefault();
            add(text);
          }
          if (e.key === "Escape") setText("");
          if (e.key === "Backspace" && text === "" && words.length > 0) onPut(listed(field, words.slice(0, -1)));
        }}
      />
    </span>
  );
}
