import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { http, type Refusal, type Schemas, unwrap } from "./client";
import { keys } from "./keys";
import { path } from "./queries";

export type CampaignHead = Schemas["CampaignHead"];
export type CampaignView = Schemas["CampaignView"];
export type HarmRow = Schemas["HarmRow"];
export type Matters = Schemas["Matters"];
export type Mistake = Schemas["Mistake"];
export type WantedCampaign = Schemas["WantedCampaign"];
export type DefenceView = Schemas["DefenceView"];
export type DepthRow = Schemas["DepthRow"];
export type OnStage = Schemas["OnStage"];
const ALL = ["campaigns"] as const;
const at = (number: number) => ({ path: { number } });
/** How often one that goes on is looked at. */
const LOOK_MS = 1500;

export function useCampaigns() {
  return useQuery<CampaignHead[], Refusal>({
    queryKey: ALL,
    queryFn: async () => unwrap(await http.GET("/api/campaigns")),
    refetchInterval: (query) => (query.state.data?.some((c) => c.state === "running") ? LOOK_MS : false),
  });
}

/** One campaign; null = none is looked at. */
export function useCampaign(number: number | null) {
  return useQuery<CampaignView, Refusal>({
    queryKey: [...ALL, number],
    enabled: number !== null,
    retry: false,
    queryFn: async () => unwrap(await http.GET("/api/campaigns/{number}", { params: at(number ?? 0) })),
    refetchInterval: (query) => (query.state.data?.head.state === "running" ? LOOK_MS : false),
  });
}

export type CampaignChange = { kind: "begin"; wanted: WantedCampaign } | { kind: "stop" | "go-on" | "remove"; number: number };

export function useCampaignChange() {
  const cache = useQueryClient();
  return useMutation<CampaignHead | undefined, Refusal, CampaignChange>({
    mutationFn: async (change) => {
      if (change.kind === "begin") return unwrap(await http.POST("/api/campaigns", { body: change.wanted }));
      if (change.kind === "stop") return unwrap(await http.POST("/api/campaigns/{number}/stop", { params: at(change.number) }));
      if (change.kind === "go-on") return unwrap(await http.POST("/api/campaigns/{number}/go-on", { params: at(change.number) }));
      return unwrap(await http.DELETE("/api/campaigns/{number}", { params: at(change.number) }));
    },
    onSettled: () => cache.invalidateQueries({ queryKey: ALL }),
  });
}

/** Where a case is to be seen; a what-if may be begun for it. */
export function useStaged() {
  const cache = useQueryClient();
  return useMutation<OnStage, Refusal, { number: number; key: string }>({
    mutationFn: async ({ number, key }) => unwrap(await http.POST("/api/campaigns/{number}/stage", { params: at(number), body: { key } })),
    onSuccess: () => cache.invalidateQueries({ queryKey: keys.designs }),
  });
}

/** The published revisions of a design, where it is chosen. */
export function useRevisionsOf(id: string, chosen: boolean) {
  return useQuery<Schemas["Revision"][], Refusal>({
    queryKey: keys.part(id, "revisions"),
    enabled: chosen,
    queryFn: async () => unwrap(await http.GET("/api/designs/{design_id}/revisions", { params: path(id) })),
  });
}

/** How deep each closed expectation is defended, as far as that is known. */
export function useDefence(id: string) {
  return useQuery<DefenceView, Refusal>({
    queryKey: keys.part(id, "defence"),
    queryFn: async () => unwrap(await http.GET("/api/designs/{design_id}/draft/defence", { params: path(id) })),
    refetchInterval: (query) => (query.state.data?.state === "running" ? LOOK_MS : false),
  });
}

export function useDefenceSearch(id: string) {
  const cache = useQueryClient();
  return useMutation<DefenceView, Refusal, "begin" | "stop">({
    mutationFn: async (what) =>
      what === "begin"
        ? unwrap(await http.POST("/api/designs/{design_id}/draft/defence", { params: path(id) }))
        : unwrap(await http.POST("/api/designs/{design_id}/draft/defence/stop", { params: path(id) })),
    onSuccess: (found) => cache.setQueryData(keys.part(id, "defence"), found),
  });
}

/** Where a way in is to be seen. */
export function useWayStaged(id: string) {
  const cache = useQueryClient();
  return useMutation<OnStage, Refusal, { failed: string[]; faults: string[] }>({
    mutationFn: async (body) => unwrap(await http.POST("/api/designs/{design_id}/draft/defence/stage", { params: path(id), body })),
    onSuccess: () => cache.invalidateQueries({ queryKey: keys.designs }),
  });
}
