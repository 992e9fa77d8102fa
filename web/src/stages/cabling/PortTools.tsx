import { useState } from "react";
import { useMakePreview, workedOut } from "../../api/making";
import { PreviewBox } from "../../parts/PreviewBox";
import { Segmented } from "../../parts/Segmented";
import type { StageProps } from "../../shell/parts";
import { jobsFor, wantedOf } from "../../shell/port/jobs";
import type { Box } from "./model";

interface Props extends Pick<StageProps, "design" | "change"> {
  box: Box;
  /** The ports that are chosen. */
  chosen: string[];
  onDone: () => void;
}

/** What becomes of the ports that are chosen, one job in one edit, seen before it is made. */
export function PortTools({ design, change, box, chosen, onDone }: Props) {
  const jobs = jobsFor(box.kind);
  const [id, setId] = useState(jobs[0]?.id ?? "bundle");
  const [text, setText] = useState("");
  const job = jobs.find((j) => j.id === id);
  const wanted = job ? wantedOf(job, { device: box.device, ports: chosen }, text) : null;
  const preview = useMakePreview(design, wanted);
  const made = wanted && workedOut(preview);
  if (!job) return null;
  return (
    <form
      className="mt-2 flex flex-col gap-2"
      aria-label="What becomes of the chosen ports"
      data-testid="port-tools"
      onSubmit={(e) => {
        e.preventDefault();
        if (!made) return;
        change.mutate({ kind: "patch", patch: made.patch });
        onDone();
      }}
    >
      <div className="flex flex-wrap items-center gap-2">
        <strong className="font-mono">{chosen.join(", ") || "none"}</strong>
        <Segmented label="What becomes of them" options={jobs.map((j) => [j.id, j.words])} chosen={id} onChoose={setId} />
        {job.asks && (
          <input
            className="hair bg-base-100 h-7 w-44 rounded border px-2"
            aria-label={job.asks.label}
            title={job.asks.label}
            placeholder={job.asks.placeholder}
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
        )}
        <button type="submit" className="btn btn-primary btn-xs h-7" disabled={!made}>
          Make it
        </button>
      </div>
      {wanted ? <PreviewBox preview={preview} hint="" /> : <p className="muted text-[12px]">{job.means}</p>}
    </form>
  );
}
