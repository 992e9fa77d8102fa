import type { Schemas } from "../api/client";
import { useWork } from "../api/work";

const WORDS: Record<NonNullable<Schemas["Progress"]["work"]>, string> = {
  rules: "what the rules permit",
  translations: "what translations touch",
  pairs: "why pairs are not heard",
  findings: "findings",
  faults: "what each mistake would show",
};

/** What the server works out while a person waits, how far it is, and a stop. */
export function Working({ design }: { design: string }) {
  const { work, stop, stopped, again } = useWork(design);
  if (stopped)
    return (
      <p role="status" className="bg-base-200 flex gap-4 px-4 py-1.5">
        <span className="flex-1">Stopped. What is missing here was not worked out.</span>
        <button type="button" className="link-quiet font-medium" onClick={again}>
          Work it out
        </button>
      </p>
    );
  if (!work) return null;
  return (
    <p role="status" className="bg-base-200 flex items-center gap-4 px-4 py-1.5" data-testid="working">
      <span>
        Working out {work.work ? WORDS[work.work] : "the site"}, {Math.round(work.seconds)} s
      </span>
      <progress className="progress w-40" {...(work.total > 0 ? { value: work.done, max: work.total } : {})} aria-label="How far it is" />
      <span className="flex-1" />
      <button type="button" className="link-quiet font-medium" onClick={stop}>
        Stop
      </button>
    </p>
  );
}
