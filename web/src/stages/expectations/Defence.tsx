import { useState } from "react";
import { type DepthRow, useDefence, useDefenceSearch, useWayStaged } from "../../api/campaigns";
import { caseWords, leftWords } from "../../campaigns/model";
import type { StageProps } from "../../shell/parts";
import { depthWords } from "./model";

/** Looks for how deep closed expectations are defended, and says how far it is. */
export function DefenceLine({ design }: { design: string }) {
  const found = useDefence(design);
  const search = useDefenceSearch(design);
  const view = found.data;
  if (!view) return null;
  const running = view.state === "running";
  const whole = view.state === "ended" && !view.stale;
  return (
    <div className="flex flex-wrap items-center gap-3" data-testid="defence">
      {running && (
        <>
          <progress className="progress w-28" {...(view.total > 0 ? { value: view.done, max: view.total } : {})} aria-label="How far it is" />
          <span role="status" className="muted text-[12px]">
            {view.done.toLocaleString("en")} of {view.total.toLocaleString("en")} tried, {leftWords(view.left_s) || "beginning"}
          </span>
          <button type="button" className="btn btn-ghost btn-xs" onClick={() => search.mutate("stop")}>
            Stop
          </button>
        </>
      )}
      {!running && (
        <>
          {view.stale && <span className="text-accent text-[12px]">Depths were of an earlier draft.</span>}
          {view.state === "stopped" && !view.stale && (
            <span className="muted text-[12px]">
              {view.done.toLocaleString("en")} of {view.total.toLocaleString("en")} tried
            </span>
          )}
          {!whole && (
            <button type="button" className="btn btn-outline btn-xs" onClick={() => search.mutate("begin")}>
              {view.state === "stopped" && !view.stale ? "Go on" : "How deep is each defended?"}
            </button>
          )}
          {whole && <span className="muted text-[12px]">Depths: {view.done.toLocaleString("en")} cases tried.</span>}
        </>
      )}
      {(search.isError || view.state === "failed") && (
        <span role="alert" className="text-error text-[12px]">
          {search.error?.message ?? `It broke off (${view.why}); it goes on where it was.`}
        </span>
      )}
    </div>
  );
}

/** How many things must go wrong before it is open; the ways in, each put on stage by a click. */
export function Depth({ design, depth, go }: { design: string; depth: DepthRow; go: StageProps["go"] }) {
  const [open, setOpen] = useState(false);
  const staged = useWayStaged(design);
  const ways = depth.ways;
  return (
    <div className="text-[12px]" data-depth={depth.words}>
      <button
        type="button"
        className={`${ways.length > 0 ? "link-quiet font-medium" : "cursor-default"} ${depth.exact && depth.depth === 1 ? "text-error" : depth.depth >= 3 ? "text-success" : ways.length > 0 ? "text-accent" : "muted"}`}
        disabled={ways.length === 0}
        aria-expanded={open}
        onClick={() => setOpen(!open)}
      >
        {depthWords(depth)}
      </button>
      {open && (
        <ul className="mt-0.5">
          {ways.map((w) => {
            const words = caseWords(w.failed, w.mistakes);
            return (
              <li key={[...w.failed, ...w.faults].join(" ")} className="flex gap-2">
                <span className="min-w-0 flex-1">{words}</span>
                <button
                  type="button"
                  className="link-quiet whitespace-nowrap"
                  aria-label={`on stage: ${words}`}
                  onClick={() =>
                    staged.mutate(
                      { failed: w.failed, faults: w.faults },
                      { onSuccess: (stage) => go({ design: stage.design, failed: stage.failed, stage: "expectations", at: null }) },
                    )
                  }
                >
                  on stage
                </button>
              </li>
            );
          })}
        </ul>
      )}
      {staged.isError && (
        <p role="alert" className="text-error">
          {staged.error.message}
        </p>
      )}
    </div>
  );
}
