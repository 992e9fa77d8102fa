import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { http, type Refusal, type Schemas, unwrap } from "./client";
import { keys } from "./keys";
import { path, usePart } from "./queries";

export type Ask = Schemas["Ask"];
export type Going = Schemas["Going"];
export type SiteDifference = Schemas["SiteDifference"];
export type SurveyView = Schemas["SurveyView"];
export type Weighed = Schemas["Weighed"];
const at = (id: string, number: number) => ({ path: { design_id: id, number } });

export function useSurveys(id: string) {
  return usePart(id, ["surveys"], () => http.GET("/api/designs/{design_id}/surveys", { params: path(id) }));
}

/** What a survey found, held against the draft as it is; null = none is looked at. */
export function useSurvey(id: string, number: number | null) {
  return usePart(id, ["survey", number], () => http.GET("/api/designs/{design_id}/surveys/{number}", { params: at(id, number ?? 0) }), number !== null);
}

/** What taking each difference over would open and close; it takes a while, so the differences do not wait for it. */
export function useWeighed(id: string, number: number | null) {
  return usePart(
    id,
    ["survey", number, "weighed"],
    () => http.GET("/api/designs/{design_id}/surveys/{number}/weighed", { params: at(id, number ?? 0) }),
    number !== null,
  );
}

/** What a survey found otherwise than an earlier one. */
export function useSince(id: string, number: number | null, other: number | null) {
  return usePart(
    id,
    ["survey", number, "since", other],
    () => http.GET("/api/designs/{design_id}/surveys/{number}/since/{other}", { params: { path: { design_id: id, number: number ?? 0, other: other ?? 0 } } }),
    number !== null && other !== null,
  );
}

/** The edit by which the design says what the site says, in some differences. */
export function useTakeOver(id: string, number: number, chosen: string[]) {
  return usePart(
    id,
    ["survey", number, "take-over", chosen],
    () => http.POST("/api/designs/{design_id}/surveys/{number}/take-over", { params: at(id, number), body: { keys: chosen } }),
    chosen.length > 0,
  );
}

/** The survey that goes on, looked at each second while it does. */
export function useAsking(id: string) {
  const cache = useQueryClient();
  const key = keys.part(id, "asking");
  const going = useQuery({
    queryKey: key,
    retry: false,
    queryFn: async () => {
      const outcome = await http.GET("/api/designs/{design_id}/surveys/running", { params: path(id) });
      if (outcome.response.status === 404) return null;
      const found = unwrap(outcome);
      if (found.state !== "running") void cache.invalidateQueries({ queryKey: keys.part(id, "surveys") });
      return found;
    },
    refetchInterval: (query) => (query.state.data?.state === "running" ? 1000 : false),
  });
  const begin = useMutation<Going, Refusal, Ask>({
    mutationFn: async (body) => unwrap(await http.POST("/api/designs/{design_id}/surveys", { params: path(id), body })),
    onSuccess: (found) => cache.setQueryData(key, found),
  });
  const stop = useMutation<Going, Refusal>({ mutationFn: async () => unwrap(await http.POST("/api/designs/{design_id}/surveys/stop", { params: path(id) })) });
  return { going: going.data ?? null, begin, stop };
}

/** Keep that the design is right about some differences, or no longer. */
export function useDecide(id: string, number: number) {
  const cache = useQueryClient();
  return useMutation<SurveyView, Refusal, { keys: string[]; right: boolean }>({
    mutationFn: async (body) => unwrap(await http.POST("/api/designs/{design_id}/surveys/{number}/decide", { params: at(id, number), body })),
    onSuccess: (found) => cache.setQueryData(keys.part(id, "survey", number), found),
  });
}
