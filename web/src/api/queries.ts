import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { http, type Patch, Refusal, type Schemas, unwrap } from "./client";

/** Everything of one design hangs under one key, so that one edit makes all of it stale at once. */
export const keys = {
  designs: ["designs"] as const,
  design: (id: string) => ["design", id] as const,
  part: (id: string, ...rest: unknown[]) => ["design", id, ...rest] as const,
};

export interface Question {
  service: string | null;
  family: 4 | 6 | null;
}

export function useDesigns() {
  return useQuery({ queryKey: keys.designs, queryFn: async () => unwrap(await http.GET("/api/designs")) });
}

export function useDraft(id: string) {
  return useQuery({
    queryKey: keys.part(id, "draft"),
    queryFn: async () => unwrap(await http.GET("/api/designs/{design_id}/draft", { params: { path: { design_id: id } } })),
    placeholderData: keepPreviousData,
  });
}

export function useLastEdit(id: string) {
  return useQuery({
    queryKey: keys.part(id, "last-edit"),
    queryFn: async () => unwrap(await http.GET("/api/designs/{design_id}/draft/last-edit", { params: { path: { design_id: id } } })),
    placeholderData: keepPreviousData,
  });
}

export function useClimb(id: string) {
  return useQuery({
    queryKey: keys.part(id, "climb"),
    queryFn: async () => unwrap(await http.GET("/api/designs/{design_id}/views/climb", { params: { path: { design_id: id } } })),
    placeholderData: keepPreviousData,
  });
}

export function useGrid(id: string) {
  return useQuery({
    queryKey: keys.part(id, "grid"),
    queryFn: async () => unwrap(await http.GET("/api/designs/{design_id}/views/grid", { params: { path: { design_id: id } } })),
    placeholderData: keepPreviousData,
  });
}

export function useNames(id: string, wanted: boolean) {
  return useQuery({
    queryKey: keys.part(id, "names"),
    enabled: wanted,
    queryFn: async () => unwrap(await http.GET("/api/designs/{design_id}/views/names", { params: { path: { design_id: id } } })),
  });
}

export function useMatrix(id: string, question: Question, transits: boolean) {
  return useQuery({
    queryKey: keys.part(id, "matrix", question, transits),
    queryFn: async () =>
      unwrap(
        await http.GET("/api/designs/{design_id}/views/matrix", {
          params: { path: { design_id: id }, query: { ...asked(question), transits } },
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  });
}

export function usePair(id: string, pair: { from: string; to: string } | null, question: Question, passing: boolean) {
  return useQuery({
    queryKey: keys.part(id, "pair", pair, question, passing),
    enabled: pair !== null,
    queryFn: async () =>
      unwrap(
        await http.GET("/api/designs/{design_id}/views/pair", {
          params: { path: { design_id: id }, query: { source: pair?.from ?? "", target: pair?.to ?? "", ...asked(question), passing } },
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  });
}

export function useItem(id: string, pointer: string | null) {
  return useQuery({
    queryKey: keys.part(id, "item", pointer),
    enabled: pointer !== null,
    queryFn: async () =>
      unwrap(
        await http.GET("/api/designs/{design_id}/views/item", {
          params: { path: { design_id: id }, query: { pointer: pointer ?? "" } },
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  });
}

function asked(question: Question) {
  return { ...(question.service ? { service: question.service } : {}), ...(question.family ? { family: question.family } : {}) };
}

export type Change =
  | { kind: "patch"; patch: Patch }
  | { kind: "cells"; cells: Schemas["MembershipCell"][] }
  | { kind: "undo" }
  | { kind: "redo" };

/** Make a change to the draft; the answer (its consequences) goes into the cache, everything else is fetched anew. */
export function useChange(id: string) {
  const cache = useQueryClient();
  return useMutation<Schemas["Edited"], Refusal, Change>({
    scope: { id: `edit ${id}` },
    mutationFn: async (change) => {
      const version = cache.getQueryData<Schemas["DraftView"]>(keys.part(id, "draft"))?.version ?? 0;
      return send(id, change, version);
    },
    onSuccess: async (edited) => {
      cache.setQueryData<Schemas["DraftView"]>(keys.part(id, "draft"), (old) =>
        old ? { ...old, version: edited.version, can_undo: edited.can_undo, can_redo: edited.can_redo } : old,
      );
      cache.setQueryData(keys.part(id, "last-edit"), edited);
      await cache.invalidateQueries({ queryKey: keys.design(id), predicate: (q) => q.queryKey[2] !== "last-edit" });
    },
    onError: () => cache.invalidateQueries({ queryKey: keys.design(id) }),
  });
}

async function send(id: string, change: Change, version: number): Promise<Schemas["Edited"]> {
  const params = { path: { design_id: id }, header: { "if-match": `"${version}"`, "X-Author": "me" } };
  switch (change.kind) {
    case "patch":
      return unwrap(
        await http.PATCH("/api/designs/{design_id}/draft", {
          params,
          body: change.patch,
          headers: { "Content-Type": "application/json-patch+json" },
        }),
      );
    case "cells":
      return unwrap(await http.POST("/api/designs/{design_id}/draft/memberships", { params, body: change.cells }));
    case "undo":
      return unwrap(await http.POST("/api/designs/{design_id}/draft/undo", { params }));
    case "redo":
      return unwrap(await http.POST("/api/designs/{design_id}/draft/redo", { params }));
  }
}
