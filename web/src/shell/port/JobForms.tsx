import { useState } from "react";
import { useMakePreview } from "../../api/making";
import type { StageProps } from "../parts";
import { ActionForm, Line } from "./ActionForm";
import { type Job, jobsFor, wantedOf } from "./jobs";

interface Props extends Pick<StageProps, "design" | "change"> {
  /** device:port */
  place: string;
  /** Of the device. */
  kind: string;
}

/** The jobs that make sense on one port alone. */
export function JobForms({ kind, ...rest }: Props) {
  return jobsFor(kind)
    .filter((j) => j.alone)
    .map((job) => <JobForm key={job.id} job={job} {...rest} />);
}

/** Nothing is asked of the server before a person opens it or types. */
function JobForm({ job, place, design, change }: Omit<Props, "kind"> & { job: Job }) {
  const [open, setOpen] = useState(false);
  const [text, setText] = useState("");
  const [device = "", port = ""] = place.split(":");
  const wanted = open ? wantedOf(job, { device, ports: [port] }, text) : null;
  const preview = useMakePreview(design, wanted);
  return (
    <ActionForm label={job.words} verb="Make it" preview={wanted && preview} change={change} onDone={() => setText("")} onOpen={setOpen}>
      <p className="muted text-[12px]">{job.means}</p>
      {job.asks && <Line label={job.asks.label} value={text} onChange={setText} placeholder={job.asks.placeholder} />}
    </ActionForm>
  );
}
