import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useProposals } from "../../api/queries";
import { shown } from "../../shell/consequences";
import type { StageProps } from "../../shell/parts";

type Props = Pick<StageProps, "design" | "change"> & { source: string; target: string; asked: string | null };

/** "So that it may", "so that it may not": the rules that would have to change, the narrowest edit first, each with what else it would do. */
export function Proposals({ design, change, source, target, asked }: Props) {
  const [service, setService] = useState(asked ?? "https");
  const [wish, setWish] = useState<Schemas["Wish"] | null>(null);
  const offers = useProposals(design, wish);
  const ask = (expect: "open" | "closed") => setWish({ source, target, service: service.trim(), expect });
  return (
    <details className="hair border-t pt-1">
      <summary className="cursor-pointer">What would have to change…</summary>
      <p className="mt-1 flex flex-wrap items-center gap-1.5">
        so that
        <input
          className="hair bg-base-100 h-6 w-24 rounded border px-1.5 font-mono text-[12px]"
          aria-label="service"
          value={service}
          onChange={(e) => setService(e.target.value)}
        />
        <button type="button" className="btn btn-outline btn-xs" disabled={service.trim() === ""} onClick={() => ask("open")}>
          may pass
        </button>
        <button type="button" className="btn btn-outline btn-xs" disabled={service.trim() === ""} onClick={() => ask("closed")}>
          may not
        </button>
      </p>
      {wish && offers.isError && (
        <p role="alert" className="text-error">
          {offers.error.message}
        </p>
      )}
      {wish && offers.isFetching && <p className="muted">working it out…</p>}
      {wish && !offers.isFetching && offers.data?.length === 0 && (
        <p className="muted">No rule has to change: it is so already, or something below the rules stops it.</p>
      )}
      <ul data-testid="proposals">
        {wish &&
          !offers.isFetching &&
          offers.data?.map((o) => (
            <li key={o.words} className="hair border-b py-1">
              <p>{o.words}</p>
              <p className="muted text-[12px]">
                {shown(o.preview.consequences)
                  .map((g) => g.words)
                  .join(", ") || "nothing else changes"}
              </p>
              <button
                type="button"
                className="btn btn-primary btn-xs mt-0.5"
                onClick={() => {
                  change.mutate({ kind: "patch", patch: o.preview.patch });
                  setWish(null);
                }}
              >
                Do it
              </button>
            </li>
          ))}
      </ul>
    </details>
  );
}
