import type { UseQueryResult } from "@tanstack/react-query";
import type { ReactNode } from "react";
import type { Schemas } from "../../api/client";
import { workedOut } from "../../api/making";
import { PreviewBox } from "../../parts/PreviewBox";
import type { StageProps } from "../parts";

interface Props {
  /** What it does; the words one opens it by. */
  label: string;
  /** The word on its button. */
  verb: string;
  /** What it would change; null while too little is known. */
  preview: UseQueryResult<Schemas["Preview"]> | null;
  change: StageProps["change"];
  onDone: () => void;
  onOpen?: (open: boolean) => void;
  children: ReactNode;
}

/** One thing a person can do with a port: folded until opened, and what it would change is shown before it is done. */
export function ActionForm({ label, verb, preview, change, onDone, onOpen, children }: Props) {
  const ready = preview && workedOut(preview);
  return (
    <details className="hair border-t pt-2" onToggle={(e) => onOpen?.(e.currentTarget.open)}>
      <summary className="cursor-pointer font-medium">{label}</summary>
      <form
        className="mt-2 flex flex-col gap-2"
        aria-label={label}
        onSubmit={(e) => {
          e.preventDefault();
          if (!ready) return;
          change.mutate({ kind: "patch", patch: ready.patch });
          onDone();
        }}
      >
        {children}
        {preview && <PreviewBox preview={preview} hint="" />}
        <button type="submit" className="btn btn-primary btn-xs h-7 self-end" disabled={!ready}>
          {verb}
        </button>
      </form>
    </details>
  );
}

interface LineProps {
  label: string;
  value: string;
  onChange: (text: string) => void;
  placeholder?: string;
  /** The label stands above, where it is long. */
  stacked?: boolean;
}

/** One labelled line of typing. */
export function Line({ label, value, onChange, placeholder = "", stacked = false }: LineProps) {
  return (
    <label className={`grid items-center ${stacked ? "grid-cols-2 gap-1" : "grid-cols-[5.500rem_1fr] gap-2"}`}>
      <span className="muted text-[12px]">{label}</span>
      <input
        className="hair bg-base-100 h-7 min-w-0 rounded border px-2 font-mono text-[12px]"
        placeholder={placeholder}
        value={value}
        onChange={(e) => onChange(e.target.value)}
      />
    </label>
  );
}

/** One labelled choice. `options` are [value, words]. */
export function Choice({ label, value, onChange, options }: LineProps & { options: [string, string][] }) {
  return (
    <label className="grid grid-cols-[5.500rem_1fr] items-center gap-2">
      <span className="muted text-[12px]">{label}</span>
      <select className="select select-xs h-7 w-full" value={value} onChange={(e) => onChange(e.target.value)}>
        {options.map(([key, words]) => (
          <option key={key} value={key}>
            {words}
          </option>
        ))}
      </select>
    </label>
  );
}
