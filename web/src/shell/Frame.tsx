import { useEffect, useReducer } from "react";
import { useChange, useDraft } from "../api/queries";
import { CablingStage } from "../stages/cabling/Stage";
import { ComingStage } from "../stages/coming/Stage";
import { ExpectationsStage } from "../stages/expectations/Stage";
import { FailoverStage } from "../stages/failover/Stage";
import { ReachStage } from "../stages/reach/Stage";
import { RoutingStage } from "../stages/routing/Stage";
import { SegmentsStage } from "../stages/segments/Stage";
import { ZonesStage } from "../stages/zones/Stage";
import { Bench } from "./Bench";
import { ConsequencesLine } from "./ConsequencesLine";
import { Finder } from "./Finder";
import { usePlace } from "./place";
import { Rail } from "./Rail";
import { Shortcuts } from "./Shortcuts";
import { firstState, keep, kept, shellReducer } from "./state";
import { STAGES, WORKING } from "./stages";
import { TopBar } from "./TopBar";
import { useKeys } from "./useKeys";

/** The frame: rail, stage, bench side, and the consequences line that is never stale. */
export function Frame({ design }: { design: string }) {
  const { place, go } = usePlace();
  const draft = useDraft(design);
  const change = useChange(design);
  const [shell, dispatch] = useReducer(shellReducer, null, () =>
    firstState(kept(localStorage), matchMedia("(prefers-color-scheme: dark)").matches),
  );
  useEffect(() => {
    document.documentElement.dataset["theme"] = shell.theme;
    keep(localStorage, shell);
  }, [shell]);
  useKeys({
    "/": () => dispatch({ type: "overlay-opened", overlay: "finder" }),
    "mod+k": () => dispatch({ type: "overlay-opened", overlay: "finder" }),
    "?": () => dispatch({ type: "overlay-opened", overlay: "shortcuts" }),
    b: () => dispatch({ type: "bench-turned" }),
    d: () => dispatch({ type: "theme-turned" }),
    Escape: () => dispatch({ type: "overlay-closed" }),
    "mod+z": () => draft.data?.can_undo && change.mutate({ kind: "undo" }),
    "mod+shift+z": () => draft.data?.can_redo && change.mutate({ kind: "redo" }),
    "mod+y": () => draft.data?.can_redo && change.mutate({ kind: "redo" }),
    ...Object.fromEntries(STAGES.map((stage, k) => [String(k + 1), () => go({ stage })])),
  });
  const select = (at: string | null) => {
    go({ at });
    if (at !== null) dispatch({ type: "bench-wanted" });
  };
  const parts = { design, place, go, select, change };
  return (
    <div className="bg-base-100 text-base-content grid h-full grid-cols-[9.5rem_minmax(0,1fr)_auto] grid-rows-[2.75rem_minmax(0,1fr)_auto]">
      <TopBar design={design} draft={draft.data} change={change} shell={shell} dispatch={dispatch} go={go} />
      <Rail design={design} stage={place.stage} onStage={(stage) => go({ stage })} />
      <main className="col-start-2 row-start-2 min-w-0 overflow-hidden" aria-label="Stage">
        {place.stage === "cabling" && <CablingStage {...parts} />}
        {place.stage === "segments" && <SegmentsStage {...parts} />}
        {place.stage === "routing" && <RoutingStage {...parts} />}
        {place.stage === "zones" && <ZonesStage {...parts} />}
        {place.stage === "reach" && <ReachStage {...parts} />}
        {place.stage === "failover" && <FailoverStage {...parts} />}
        {place.stage === "expectations" && <ExpectationsStage {...parts} />}
        {!WORKING.includes(place.stage) && <ComingStage stage={place.stage} />}
      </main>
      {shell.bench === "open" ? <Bench {...parts} /> : null}
      <ConsequencesLine design={design} draft={draft.data} change={change} go={go} open={shell.overlay === "consequences"} dispatch={dispatch} />
      {shell.overlay === "finder" && <Finder design={design} go={go} select={select} onClose={() => dispatch({ type: "overlay-closed" })} />}
      {shell.overlay === "shortcuts" && <Shortcuts onClose={() => dispatch({ type: "overlay-closed" })} />}
    </div>
  );
}
