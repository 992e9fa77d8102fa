import type { Schemas } from "../api/client";
import { useWork } from "../api/work";

const WORDS: Record<NonNullable<Schemas["Progress"]["work"]>, string> = {
  rules: "what the rules permit",
  translations: "what translations touch",
  pairs: "why pairs are not heard",
  findings: "findings",
  faults: "what each mistake would show",
};

/** It floats over the foot of the stage: what a hand is about to grasp does not move away under it. */
const FLOATS = "bg-base-100 hair absolute right-3 bottom-3 z-20 flex items-center gap-3 rounded-md border px-3 py-1.5 shadow-md";

/** What the server works out while a person waits, how far it is, and a stop. */
export function Working({ design }: { design: string }) {
  const { work, stop, stopped, again } = useWork(design);
  if (stopped)
    return (
      <p role="status" className={FLOATS}>
        <span>Stopped. What is missing here was not worked out.</span>
        <button type="button" className="link-quiet font-medium" onClick={again}>
          Work it out
        </button>
      </p>
    );
  if (!work) return null;
  return (
    <p role="status" className={FLOATS} data-testid="working">
      <span>
        Working out {work.work ? WORDS[work.work] : "the site"}, {Math.round(work.seconds)} s
      </span>
      <progress className="progress w-40" {...(work.total > 0 ? { value: work.done, max: work.total } : {})} aria-label="How far it is" />
      <button type="button" className="link-quiet font-medium" onClick={stop}>
        Stop
      </button>
    </p>
  );
}
