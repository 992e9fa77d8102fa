import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { http, type Outcome, type Patch, type Refusal, type Schemas, unwrap } from "./client";

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

/** Fetch one part of a design; the last answer stays on screen while a new one is fetched. `wanted` defaults to true. */
function usePart<T>(id: string, part: unknown[], fetch: () => Promise<Outcome<T>>, wanted = true) {
  return useQuery({
    queryKey: keys.part(id, ...part),
    queryFn: async () => unwrap(await fetch()),
    enabled: wanted,
    placeholderData: keepPreviousData,
    retry: false,
  });
}

const path = (id: string) => ({ path: { design_id: id } });

export function useDraft(id: string) {
  return usePart(id, ["draft"], () => http.GET("/api/designs/{design_id}/draft", { params: path(id) }));
}

export function useLastEdit(id: string) {
  return usePart(id, ["last-edit"], () => http.GET("/api/designs/{design_id}/draft/last-edit", { params: path(id) }));
}

export function useClimb(id: string) {
  return usePart(id, ["climb"], () => http.GET("/api/designs/{design_id}/views/climb", { params: path(id) }));
}

export function useGrid(id: string) {
  return usePart(id, ["grid"], () => http.GET("/api/designs/{design_id}/views/grid", { params: path(id) }));
}

export function useCabling(id: string) {
  return usePart(id, ["cabling"], () => http.GET("/api/designs/{design_id}/views/cabling", { params: path(id) }));
}

/** What a laptop finds on a port; asked only when somebody wants to know (`place` is null until then). */
export function usePlug(id: string, place: string | null, tag: number | null) {
  const query = { place: place ?? "", ...(tag ? { tag } : {}) };
  return usePart(id, ["plug", query], () => http.GET("/api/designs/{design_id}/views/plug", { params: { ...path(id), query } }), place !== null);
}

export function useNames(id: string) {
  return usePart(id, ["names"], () => http.GET("/api/designs/{design_id}/views/names", { params: path(id) }));
}

export function useMatrix(id: string, question: Question, transits: boolean) {
  const query = { ...asked(question), transits };
  return usePart(id, ["matrix", query], () => http.GET("/api/designs/{design_id}/views/matrix", { params: { ...path(id), query } }));
}

export function usePair(id: string, pair: { from: string; to: string } | null, question: Question, passing: boolean) {
  const query = { source: pair?.from ?? "", target: pair?.to ?? "", ...asked(question), passing };
  return usePart(id, ["pair", query], () => http.GET("/api/designs/{design_id}/views/pair", { params: { ...path(id), query } }), pair !== null);
}

export function useItem(id: string, pointer: string) {
  return usePart(id, ["item", pointer], () => http.GET("/api/designs/{design_id}/views/item", { params: { ...path(id), query: { pointer } } }));
}

function asked(question: Question) {
  return { ...(question.service ? { service: question.service } : {}), ...(question.family ? { family: question.family } : {}) };
}

/** Work out what a new VLAN would change; null = not enough is known yet. */
export function useNewVlanPreview(id: string, wanted: Schemas["NewVlan"] | null) {
  const body = wanted ?? { id: 0, name: "" };
  return usePart(id, ["new-vlan", wanted], () => http.POST("/api/designs/{design_id}/draft/new-vlan", { params: path(id), body }), wanted !== null);
}

export function useSuggestedSubnet(id: string, vlan: number) {
  const params = { path: { design_id: id, vlan } };
  return usePart(id, ["subnet", vlan], () => http.GET("/api/designs/{design_id}/draft/new-vlan/{vlan}/subnet", { params }), Number.isInteger(vlan) && vlan > 0 && vlan < 4095);
}

export function useRemoveVlanPreview(id: string, vlan: number | null) {
  const params = { path: { design_id: id, vlan: vlan ?? 0 } };
  return usePart(id, ["remove-vlan", vlan], () => http.POST("/api/designs/{design_id}/draft/remove-vlan/{vlan}", { params }), vlan !== null);
}

/** Work out what copying a port's settings would change; null = nothing asked yet. */
export function useCopyPreview(id: string, wanted: Schemas["CopyPort"] | null) {
  const body = wanted ?? { device: "", port: "", targets: "" };
  return usePart(id, ["copy-port", wanted], () => http.POST("/api/designs/{design_id}/draft/copy-port", { params: path(id), body }), wanted !== null);
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
