import { type ComponentType, lazy } from "react";
import type { StageProps } from "./parts";
import type { StageName } from "./stages";

type Page = { default: ComponentType<StageProps> };

/** Each stage is a file of its own, fetched when it is first gone to. */
const FETCH: Record<StageName, () => Promise<Page>> = {
  cabling: () => import("../stages/cabling/Stage").then((m) => ({ default: m.CablingStage })),
  segments: () => import("../stages/segments/Stage").then((m) => ({ default: m.SegmentsStage })),
  routing: () => import("../stages/routing/Stage").then((m) => ({ default: m.RoutingStage })),
  zones: () => import("../stages/zones/Stage").then((m) => ({ default: m.ZonesStage })),
  reach: () => import("../stages/reach/Stage").then((m) => ({ default: m.ReachStage })),
  failover: () => import("../stages/failover/Stage").then((m) => ({ default: m.FailoverStage })),
  expectations: () => import("../stages/expectations/Stage").then((m) => ({ default: m.ExpectationsStage })),
  history: () => import("../stages/history/Stage").then((m) => ({ default: m.HistoryStage })),
};

export const PAGES = Object.fromEntries(Object.entries(FETCH).map(([stage, fetch]) => [stage, lazy(fetch)])) as unknown as Record<
  StageName,
  ComponentType<StageProps>
>;

/** Fetch the others once nothing else is to be done, so that going there waits for nothing. */
export function fetchTheRest(): void {
  const all = () => Object.values(FETCH).forEach((fetch) => void fetch());
  if ("requestIdleCallback" in window) requestIdleCallback(all, { timeout: 4000 });
  else setTimeout(all, 2000);
}
