import { X } from "lucide-react";
import { useState } from "react";
import { HELP, keepHint, keptHints } from "./help";
import type { StageName } from "./stages";

/** Three lines at the first visit of a stage; closed, they never come back (the same stand under `?`). */
export function Hint({ stage }: { stage: StageName }) {
  const [closed, setClosed] = useState(() => keptHints(localStorage));
  if (closed.includes(stage)) return null;
  return (
    <div role="note" className="bg-secondary/10 hair flex items-start gap-3 border-b px-4 py-1.5 text-[12px]" aria-label="Hint">
      <ul className="grid flex-1 grid-cols-3 gap-x-5 max-[900px]:max-h-10 max-[900px]:grid-cols-1 max-[900px]:overflow-y-auto">
        {HELP[stage].lines.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
      <button
        type="button"
        className="btn btn-ghost btn-xs btn-square"
        aria-label="Close this hint for good"
        onClick={() => {
          keepHint(localStorage, stage);
          setClosed([...closed, stage]);
        }}
      >
        <X size={13} aria-hidden="true" />
      </button>
    </div>
  );
}
