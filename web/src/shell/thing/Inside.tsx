import { ChevronRight, Plus } from "lucide-react";
import type { Schemas } from "../../api/client";
import type { StageProps } from "../parts";

interface Props {
  lists: Schemas["Inside"][];
  select: StageProps["select"];
  /** Make one more. */
  onMake: (kind: string) => void;
  /** Add ports by a pattern. */
  onPorts: (() => void) | null;
}

/** What stands in a thing, list by list: counted, folded, each a link; and a button for one more. */
export function Inside({ lists, select, onMake, onPorts }: Props) {
  if (lists.length === 0) return null;
  return (
    <section aria-label="Inside">
      <h3 className="eyebrow mb-1">Inside</h3>
      {lists.map((list) => (
        <div key={list.key} className="hair relative border-t py-0.5 last:border-b">
          <details data-inside={list.key}>
            <summary className={`flex min-h-6 cursor-pointer items-center gap-2 ${list.makes ? "pr-8" : ""}`}>
              <ChevronRight size={12} className="muted details-turn" aria-hidden="true" />
              <span className="flex-1">{list.title}</span>
              <span className="muted font-mono text-[12px]">{list.links.length}</span>
            </summary>
            <ul className="max-h-56 overflow-y-auto pb-1 pl-5">
              {list.links.length === 0 && <li className="muted">none</li>}
              {list.links.map((l) => (
                <li key={l.pointer}>
                  <button type="button" className="link-quiet max-w-full truncate text-left" onClick={() => select(l.pointer)}>
                    {l.title}
                  </button>
                </li>
              ))}
            </ul>
          </details>
          {list.makes && (
            <button
              type="button"
              className="btn btn-ghost btn-xs btn-square absolute top-0.5 right-0"
              aria-label={`Add to ${list.title}`}
              onClick={() => {
                if (list.makes === "port" && onPorts) onPorts();
                else onMake(list.makes ?? "");
              }}
            >
              <Plus size={12} aria-hidden="true" />
            </button>
          )}
        </div>
      ))}
    </section>
  );
}
