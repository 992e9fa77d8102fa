import { useClimb } from "../api/queries";
import { Findings } from "./Findings";
import type { StageProps } from "./parts";
import { Thing } from "./thing/Thing";

/** The bench side: the selected thing, editable, with what it leans on and what leans on it; with nothing selected, what to mend. */
export function Bench({ onClose, ...props }: StageProps & { onClose: () => void }) {
  const { design, place, select } = props;
  return (
    <aside
      className="hair bg-base-100 col-start-3 row-start-2 flex w-64 flex-col overflow-y-auto border-l max-[900px]:fixed max-[900px]:top-11 max-[900px]:right-0 max-[900px]:bottom-9 max-[900px]:z-20 max-[900px]:w-80 max-[900px]:shadow-xl xl:w-80"
      aria-label="Bench side"
    >
      <button type="button" className="link-quiet self-end px-3 pt-2 min-[901px]:hidden" onClick={onClose}>
        Back to the stage
      </button>
      {place.at === null ? <ToMend {...props} /> : <Thing key={place.at} {...props} design={design} at={place.at} onClose={() => select(null)} />}
    </aside>
  );
}

function ToMend({ design, select, change }: StageProps) {
  const climb = useClimb(design);
  const findings = climb.data?.findings ?? [];
  return (
    <section className="p-3">
      <h2 className="eyebrow mb-2">To mend</h2>
      {climb.isPending && <p className="muted">Being worked out… on a site of thousands of rules this takes a minute.</p>}
      {climb.data && findings.length === 0 && <p className="muted">Nothing is broken. Click a cell, a point or a name, and it opens here.</p>}
      <Findings design={design} change={change} select={select} findings={findings} />
    </section>
  );
}
