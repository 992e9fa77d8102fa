import { Plus, X } from "lucide-react";
import { useForms } from "../../api/making";
import type { Plain } from "../../parts/fields/model";
import { type FieldsProps, ThingFields } from "../../parts/fields/ThingFields";

interface Props extends FieldsProps {
  /** Make a group that is a thing of its own, with what the site proposes. */
  onMake: (kind: string) => void;
  /** Go to such a group. */
  onOpen: (pointer: string) => void;
}

/** Groups that hold lists of their own: they are made in a dialog, and have a page. */
const THINGS = ["ospf", "when"];

/** Settings that come as a group of their own: limits, preferences, how two units share one configuration. */
export function Parts({ design, at, fields, value, kind, version, onPut, onMake, onOpen }: Props) {
  const forms = useForms();
  return fields.map((part) => {
    const inner = part.model ? (forms.data?.models[part.model] ?? []) : [];
    const now = value[part.key] as Record<string, Plain> | undefined;
    return (
      <div key={part.key} className="hair relative border-t py-0.5">
        <details data-part={part.key} open={now !== undefined && part.key === "failover"}>
          <summary className="flex min-h-6 cursor-pointer items-center gap-2 pr-8">
            <span className="flex-1">{part.title}</span>
            {now === undefined && <span className="muted text-[12px]">not stated</span>}
          </summary>
          {now === undefined && (
            <button
              type="button"
              className="link-quiet flex items-center gap-1 py-1"
              onClick={() => (THINGS.includes(part.key) ? onMake(part.key) : onPut(part.key, {}))}
            >
              <Plus size={12} aria-hidden="true" /> state them
            </button>
          )}
          {now !== undefined && THINGS.includes(part.key) && (
            <button type="button" className="link-quiet py-1" onClick={() => onOpen(`${at}/${part.key}`)}>
              Open {part.title}
            </button>
          )}
          {now !== undefined && (
            <ThingFields
              design={design}
              at={`${at}/${part.key}`}
              fields={inner}
              value={now}
              kind={kind}
              version={version}
              onPut={(key, v, seen) => {
                const rest = Object.fromEntries(Object.entries(now).filter(([k]) => k !== key));
                onPut(part.key, v === undefined ? rest : { ...rest, [key]: v }, seen);
              }}
            />
          )}
        </details>
        {now !== undefined && (
          <button
            type="button"
            className="btn btn-ghost btn-xs btn-square absolute top-0.5 right-0"
            aria-label={`Take ${part.title} out`}
            onClick={() => onPut(part.key, undefined)}
          >
            <X size={12} aria-hidden="true" />
          </button>
        )}
      </div>
    );
  });
}
