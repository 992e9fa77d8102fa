import { useState } from "react";
import { useCampaignChange, useRevisionsOf, type WantedCampaign } from "../api/campaigns";
import { useDesigns } from "../api/queries";
import { Dialog } from "../parts/Dialog";
import { Segmented } from "../parts/Segmented";

type About = WantedCampaign["about"][number];

/** Which states of which designs, and what is to happen to each. */
export function BeginDialog({ onClose, onBegun }: { onClose: () => void; onBegun: (id: number) => void }) {
  const designs = useDesigns();
  const change = useCampaignChange();
  const [about, setAbout] = useState<About[]>([]);
  const [failures, setFailures] = useState("1");
  const [faults, setFaults] = useState("1");
  const [together, setTogether] = useState(false);
  const known = (designs.data ?? []).filter((d) => !d.branch_of);
  const has = (one: About) => about.some((a) => a.design === one.design && (a.revision ?? null) === (one.revision ?? null));
  const toggle = (one: About) =>
    setAbout(has(one) ? about.filter((a) => a.design !== one.design || (a.revision ?? null) !== (one.revision ?? null)) : [...about, one]);
  return (
    <Dialog label="New campaign" onClose={onClose} wide>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          change.mutate(
            { kind: "begin", wanted: { about, failures: Number(failures), faults: Number(faults), together, sample: 1000, seed: 0 } },
            { onSuccess: (head) => head && onBegun(head.id) },
          );
        }}
      >
        <h2 className="text-base font-semibold">New campaign</h2>
        <p className="muted text-[12px]">Everything that may fail, and every mistake of the catalogue, tried out in thought on each state you choose.</p>
        <fieldset className="mt-3">
          <legend className="eyebrow">Of which designs</legend>
          <ul className="mt-1 max-h-56 overflow-y-auto">
            {known.map((d) => (
              <Choice key={d.id} id={d.id} name={d.name} has={has} toggle={toggle} chosen={about.some((a) => a.design === d.id)} />
            ))}
          </ul>
          {known.length > 1 && (
            <button type="button" className="link-quiet text-[12px]" onClick={() => setAbout(known.map((d) => ({ design: d.id })))}>
              The drafts of all {known.length}
            </button>
          )}
        </fieldset>
        <div className="mt-3 grid grid-cols-[9rem_1fr] items-center gap-x-3 gap-y-2">
          <HowMany words="Parts that fail" most={3} chosen={failures} onChoose={setFailures} />
          <HowMany words="Mistakes made" most={2} chosen={faults} onChoose={setFaults} />
        </div>
        <label className="mt-2 flex cursor-pointer items-center gap-2">
          <input type="checkbox" className="checkbox checkbox-xs" checked={together} onChange={(e) => setTogether(e.target.checked)} />
          each failure with each mistake, besides
        </label>
        <p className="muted mt-2 text-[12px]">
          A case takes about a fifth of a second on a site of a dozen segments; two mistakes at once are up to 200,000 cases. Of more than that, and of three
          failures, a thousand are drawn. It goes on in the background, and can be stopped and gone on with.
        </p>
        {change.isError && (
          <p role="alert" className="text-error mt-2">
            {change.error.problem.errors?.map((e) => e.sentence).join("; ") ?? change.error.message}
          </p>
        )}
        <div className="mt-4 flex justify-end gap-2">
          <button type="button" className="btn btn-ghost btn-sm" onClick={onClose}>
            Cancel
          </button>
          <button type="submit" className="btn btn-primary btn-sm" disabled={about.length === 0 || change.isPending}>
            Begin
          </button>
        </div>
      </form>
    </Dialog>
  );
}

interface ChoiceProps {
  id: string;
  name: string;
  chosen: boolean;
  has: (one: About) => boolean;
  toggle: (one: About) => void;
}

function Choice({ id, name, chosen, has, toggle }: ChoiceProps) {
  const revisions = useRevisionsOf(id, chosen);
  return (
    <li className="flex flex-wrap items-center gap-x-4 py-0.5">
      <Tick words={name} on={has({ design: id })} onToggle={() => toggle({ design: id })} />
      {revisions.data?.map((r) => (
        <Tick
          key={r.number}
          words={`revision ${r.number}`}
          on={has({ design: id, revision: r.number })}
          onToggle={() => toggle({ design: id, revision: r.number })}
        />
      ))}
    </li>
  );
}

function Tick({ words, on, onToggle }: { words: string; on: boolean; onToggle: () => void }) {
  return (
    <label className="flex cursor-pointer items-center gap-2">
      <input type="checkbox" className="checkbox checkbox-xs" checked={on} onChange={onToggle} />
      {words}
    </label>
  );
}

const COUNTS: [string, string][] = [
  ["0", "none"],
  ["1", "one"],
  ["2", "up to two"],
  ["3", "up to three"],
];

/** How many of something happen at once. */
function HowMany({ words, most, chosen, onChoose }: { words: string; most: number; chosen: string; onChoose: (count: string) => void }) {
  return (
    <>
      <span className="muted">{words}</span>
      <div className="justify-self-start">
        <Segmented label={`${words} at once`} chosen={chosen} onChoose={onChoose} options={COUNTS.slice(0, most + 1)} />
      </div>
    </>
  );
}
