import { ChevronDown } from "lucide-react";
import { useRef, useState } from "react";
import type { Schemas } from "../api/client";
import { useDesignChange } from "../api/designs";
import type { useChange } from "../api/queries";
import { freeName } from "./model";

interface Props {
  design: string;
  name: string;
  designs: Schemas["Listed"][];
  change: ReturnType<typeof useChange>;
  onOpen: (design: string | null) => void;
}

/** The design's name, and behind it: rename, copy, take out as a file, the other designs. */
export function DesignMenu({ design, name, designs, change, onOpen }: Props) {
  const fold = useRef<HTMLDetailsElement>(null);
  const [renaming, setRenaming] = useState<string | null>(null);
  const designChange = useDesignChange();
  const shut = () => fold.current?.removeAttribute("open");
  const here = designs.find((d) => d.id === design);
  const others = designs.filter((d) => d.id !== design).slice(0, 12);
  const item = "hover:bg-base-200 block w-full cursor-pointer rounded px-2 py-1 text-left";
  if (renaming !== null)
    return (
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (renaming.trim() !== "" && renaming.trim() !== name) change.mutate({ kind: "rename", wanted: { pointer: "", name: renaming.trim() } });
          setRenaming(null);
        }}
      >
        <input
          className="hair bg-base-100 h-7 w-56 rounded border px-2 font-medium"
          aria-label="Name of the design"
          autoFocus
          maxLength={80}
          value={renaming}
          onFocus={(e) => e.currentTarget.select()}
          onChange={(e) => setRenaming(e.target.value)}
          onBlur={() => setRenaming(null)}
          onKeyDown={(e) => e.key === "Escape" && setRenaming(null)}
        />
      </form>
    );
  return (
    <details ref={fold} className="relative" onKeyDown={(e) => e.key === "Escape" && shut()}>
      <summary className="hover:bg-base-300 flex cursor-pointer list-none items-center gap-1 rounded px-1.5 py-1 font-medium" aria-label={`Design: ${name}`}>
        <span className="max-w-56 truncate max-[900px]:max-w-28">{here?.branch_title ? `${name}: what if ${here.branch_title}` : name}</span>
        <ChevronDown size={13} className="muted" aria-hidden="true" />
      </summary>
      <div className="hair bg-base-100 absolute top-9 left-0 z-30 w-72 rounded-md border p-1 shadow-lg">
        <button type="button" className={item} onClick={() => (shut(), setRenaming(name))}>
          Rename…
        </button>
        <button
          type="button"
          className={item}
          onClick={() =>
            designChange.mutate(
              {
                kind: "begin",
                wanted: {
                  name: freeName(
                    `${name}, copy`,
                    designs.map((d) => d.name),
                  ),
                  copy_of: design,
                },
              },
              { onSuccess: (id) => (shut(), id && onOpen(id)) },
            )
          }
        >
          Copy it
        </button>
        <a className={item} href={`/api/designs/${design}/file`} download>
          Take it out as YAML
        </a>
        <a className={item} href={`/api/designs/${design}/file?form=json`} download>
          Take it out as JSON
        </a>
        <p className="hair eyebrow mt-1 border-t px-2 pt-2 pb-1">Others</p>
        {others.map((d) => (
          <button key={d.id} type="button" className={`${item} truncate`} onClick={() => (shut(), onOpen(d.id))}>
            {d.branch_title ? `${d.name}: what if ${d.branch_title}` : d.name}
          </button>
        ))}
        <button type="button" className={item} onClick={() => onOpen(null)}>
          All designs, and new ones
        </button>
      </div>
    </details>
  );
}
