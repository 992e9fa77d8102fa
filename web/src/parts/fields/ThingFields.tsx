import { useId } from "react";
import type { FormField } from "../../api/making";
import { ChipsField } from "./ChipsField";
import { MapField } from "./MapField";
import { fitting, inTheOpen, modeOf, type Plain } from "./model";
import { PickField } from "./PickField";
import { TypedField } from "./TypedField";

/** Fields of a thing, and where their edits go. */
export interface FieldsProps {
  design: string;
  /** The pointer of the thing, or of what will own it. */
  at: string;
  fields: FormField[];
  value: Record<string, unknown>;
  /** The kind of the device it is part of. */
  kind: string;
  version: number;
  /** Undefined = left out again. `seen`: the version the typing began on. */
  onPut: (key: string, value: Plain | undefined, seen?: number) => void;
}

interface Props extends FieldsProps {
  /** What can be made new from a picker, by what is named. */
  onNew?: (ref: string, field: FormField) => void;
}

const MADE_BY_REF = new Set(["zone", "vrf", "answers"]);

/** The fields of one thing: what one comes to change in the open, the rest folded until it says something. */
export function ThingFields(props: Props) {
  const { fields, value, kind } = props;
  const plain = fitting(fields, value, modeOf(fields, value, kind), kind).filter((f) => f.editor !== "things" && f.editor !== "part");
  const open = plain.filter((f) => inTheOpen(f, value) && !(f.key === "kind" && f.choices.length === 1));
  const more = plain.filter((f) => !inTheOpen(f, value) && f.key !== "anabasis");
  return (
    <div className="flex flex-col">
      {open.map((f) => (
        <Row key={f.key} field={f} {...props} />
      ))}
      {more.length > 0 && (
        <details className="mt-1">
          <summary className="muted cursor-pointer text-[12px]">{more.length} more settings</summary>
          {more.map((f) => (
            <Row key={f.key} field={f} {...props} />
          ))}
        </details>
      )}
    </div>
  );
}

function Row({ field, design, at, value, kind, version, onPut, onNew }: Props & { field: FormField }) {
  const told = useId();
  const now = value[field.key];
  const make = onNew && field.ref && MADE_BY_REF.has(field.ref) ? () => onNew(field.ref ?? "", field) : undefined;
  return (
    <div className="hair grid grid-cols-[6.500rem_minmax(0,1fr)] items-center gap-2 border-t py-0.5 last:border-b" title={field.help || undefined}>
      <span className="muted" id={told}>
        {field.title}
      </span>
      <div className="min-w-0" role="group" aria-labelledby={told}>
        {field.editor === "flag" && (
          <input
            type="checkbox"
            className="toggle toggle-sm toggle-primary"
            aria-label={field.title}
            data-key={field.key}
            checked={typeof now === "boolean" ? now : field.default === true}
            onChange={(e) => onPut(field.key, e.target.checked)}
          />
        )}
        {(field.editor === "text" || field.editor === "number") && (
          <TypedField field={field} value={now} version={version} onPut={(v, seen) => onPut(field.key, v, seen)} />
        )}
        {(field.editor === "choice" || field.editor === "ref") && (
          <PickField
            design={design}
            at={at}
            field={field}
            value={now}
            byDefault={field.key === "mode" ? (modeOf([field], {}, kind) ?? "") : ""}
            onPut={(v) => onPut(field.key, v)}
            onNew={make}
          />
        )}
        {(field.editor === "refs" || field.editor === "texts" || field.editor === "choices") && (
          <ChipsField design={design} at={at} field={field} value={now} onPut={(v) => onPut(field.key, v)} />
        )}
        {field.editor === "map" && <MapField field={field} value={now} onPut={(v) => onPut(field.key, v)} />}
      </div>
    </div>
  );
}
