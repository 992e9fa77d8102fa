import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { http, type Refusal, type Schemas, unwrap } from "./client";
import { keys } from "./keys";
import { path, usePart } from "./queries";

export type BuildView = Omit<Schemas["BuildView"], "steps" | "outages"> & { steps: BuildStep[]; outages: Outage[] };
export type SheetHead = Schemas["SheetHead"];
export type Mark = Schemas["Mark"];

export interface Pair {
  from: string;
  to: string;
}

export interface BuildStep {
  id?: string;
  device: string;
  step: number;
  title: string;
  lines: string[];
  check: string;
  see: string;
  wait_s: number;
  wait: string;
  takes_s: number;
  reach_lost: Pair[];
  regained: Pair[];
  closed: Pair[];
  opened_meanwhile: Pair[];
  broken: string[];
  console: boolean;
  cuts: string[];
  way_back: string;
  undo: string;
  subject: string;
}

export interface Outage extends Pair {
  whole: boolean;
  first: number;
  last: number;
  seconds: number;
}

export interface TestLine {
  id: string;
  at: string;
  tag: number | null;
  do: "link" | "lease" | "ping" | "connect" | "look";
  target: string;
  service: string;
  expect: string;
  stand: string;
  how: string;
  to_see: string;
  state: string;
  why: string;
  segment: string;
  to: string;
}

export interface Seen {
  value: string;
  note: string;
  at: string;
  who?: string;
}

export type SheetView = Omit<Schemas["SheetView"], "lines" | "marks" | "about"> & {
  lines: (BuildStep & TestLine)[];
  marks: Record<string, Seen>;
  about: { since: string; name: string; seconds?: number; cut_s?: number; outages?: Outage[] };
};

export interface Explanation {
  said: string;
  explains: number;
  of: number;
  where: { pointer: string; title: string }[];
  next_test: string | null;
  faults: { kind: string; pointers: string[]; layer: string }[];
  alike: { said: string }[];
  verified: boolean;
}

const at = (id: string, number: number) => ({ path: { design_id: id, number } });

/** The steps that lead to the draft. */
export function useBuild(id: string, since: string, order: "boxes" | "layers", wanted: boolean) {
  return usePart(
    id,
    ["build", since, order],
    async () => (await http.GET("/api/designs/{design_id}/draft/build", { params: { ...path(id), query: { since, order } } })) as never,
    wanted,
  ) as { data: BuildView | undefined; isError: boolean; error: Error | null; isFetching: boolean };
}

/** The test sheet of the draft, looked at each second while it is worked out. */
export function useTests(id: string, wanted: boolean) {
  return useQuery({
    queryKey: keys.part(id, "tests"),
    retry: false,
    enabled: wanted,
    queryFn: async () => unwrap(await http.GET("/api/designs/{design_id}/draft/tests", { params: path(id) })),
    refetchInterval: (query) => (query.state.data?.state === "running" ? 1000 : false),
  });
}

export function useSheets(id: string) {
  return usePart(id, ["sheets"], () => http.GET("/api/designs/{design_id}/sheets", { params: path(id) }));
}

export function useSheet(id: string, number: number | null) {
  return usePart(
    id,
    ["sheet", number],
    () => http.GET("/api/designs/{design_id}/sheets/{number}", { params: at(id, number ?? 0) }),
    number !== null,
  ) as unknown as { data: SheetView | undefined; isError: boolean; error: Error | null };
}

/** What explains what was seen: single mistakes at once, pairs of them as soon as they are known. */
export function useDiagnosis(id: string, number: number, marked: string) {
  return useQuery({
    queryKey: keys.part(id, "sheet", number, "diagnosis", marked),
    retry: false,
    queryFn: async () =>
      unwrap(await http.GET("/api/designs/{design_id}/sheets/{number}/diagnosis", { params: { ...at(id, number), query: { pairs: true } } })),
    refetchInterval: (query) => (query.state.data?.state === "running" ? 1000 : false),
    placeholderData: (before) => before,
  });
}

export function useProved(id: string) {
  return usePart(id, ["proved"], () => http.GET("/api/designs/{design_id}/sheets/proved", { params: path(id) }));
}

/** Keep a sheet, and tick or fill it in. */
export function useSheetActs(id: string) {
  const cache = useQueryClient();
  const told = (found: unknown) => {
    const sheet = found as SheetView;
    cache.setQueryData(keys.part(id, "sheet", sheet.number), sheet);
    void cache.invalidateQueries({ queryKey: keys.part(id, "sheets") });
    void cache.invalidateQueries({ queryKey: keys.part(id, "proved") });
  };
  const keep = useMutation<SheetView, Refusal, Schemas["NewSheet"]>({
    mutationFn: async (body) => unwrap(await http.POST("/api/designs/{design_id}/sheets", { params: path(id), body })) as unknown as SheetView,
    onSuccess: told,
  });
  const mark = useMutation<SheetView, Refusal, { number: number; marks: Mark[] }>({
    mutationFn: async ({ number, marks }) =>
      unwrap(await http.POST("/api/designs/{design_id}/sheets/{number}/marks", { params: at(id, number), body: marks })) as unknown as SheetView,
    onSuccess: told,
  });
  const stop = useMutation<unknown, Refusal>({
    mutationFn: async () => unwrap(await http.POST("/api/designs/{design_id}/draft/tests/stop", { params: path(id) })),
    onSuccess: () => cache.invalidateQueries({ queryKey: keys.part(id, "tests") }),
  });
  return { keep, mark, stop };
}
