import type { MutationOptions, QueryClient } from "@tanstack/react-query";
import { http, type Patch, Refusal, type Schemas, unwrap } from "./client";
import { keys } from "./keys";
import { line } from "./line";
import { asEdited, asMembered, asShown } from "./optimistic";

export type Change =
  /** `seen`: the version of the draft a person began to type on; defaults to the one on screen. */
  | { kind: "patch"; patch: Patch; seen?: number }
  | { kind: "cells"; cells: Schemas["MembershipCell"][] }
  | { kind: "rename"; wanted: Schemas["NewName"] }
  | { kind: "undo" }
  | { kind: "redo" };

/** What was on screen before an edit. */
type Before = (readonly [readonly unknown[], unknown])[];

/** How a change is made: shown at once, sent, and taken back with the reason where it is refused; its consequences go into the cache, everything else is fetched anew. */
export function changing(id: string, cache: QueryClient): MutationOptions<Schemas["Edited"], Refusal, Change, Before> {
  return {
    scope: { id: `edit ${id}` },
    onMutate: (change) => {
      const [things, grid] = [{ queryKey: keys.part(id, "item") }, keys.part(id, "grid")];
      const views = ["zones", "routing"].map((view) => ({ queryKey: keys.part(id, view) }));
      const before: Before = [things, { queryKey: grid }, ...views].flatMap((part) => cache.getQueriesData(part));
      if (change.kind === "patch") {
        cache.setQueriesData<Schemas["Item"]>(things, (thing) => thing && asEdited(thing, change.patch));
        for (const view of views) cache.setQueriesData<unknown>(view, (old: unknown) => asShown(old, change.patch));
      }
      if (change.kind === "cells") cache.setQueryData<Schemas["Grid"]>(grid, (old) => old && asMembered(old, change.cells));
      return before;
    },
    mutationFn: async (change) => {
      const known = {
        queryKey: keys.part(id, "draft"),
        queryFn: async () => unwrap(await http.GET("/api/designs/{design_id}/draft", { params: { path: { design_id: id } } })),
      };
      const shown = (await cache.ensureQueryData<Schemas["DraftView"]>(known)).version; // a key may be pressed before it is there
      if (line.down() !== null) throw new Refusal({ title: "Not sent", status: 0, detail: `${line.down() ?? ""} Until then this is read-only.` });
      try {
        return await beside(id, change, (change.kind === "patch" && change.seen) || shown);
      } catch (error) {
        if (error instanceof TypeError) throw new Refusal({ title: "Not sent", status: 0, detail: "The server does not answer." });
        throw error;
      }
    },
    onSuccess: async (edited) => {
      await cache.cancelQueries({ queryKey: keys.part(id, "draft") }); // what was asked before the edit must not be taken for its outcome
      cache.setQueryData<Schemas["DraftView"]>(keys.part(id, "draft"), (old) =>
        old ? { ...old, version: edited.version, can_undo: edited.can_undo, can_redo: edited.can_redo, undo_of: edited.undo_of } : old,
      );
      cache.setQueryData(keys.part(id, "last-edit"), edited);
      void cache.invalidateQueries({ queryKey: keys.designs }); // its name, its version, who was there last
      await cache.invalidateQueries({ queryKey: keys.design(id), predicate: (q) => q.queryKey[2] !== "last-edit" });
    },
    onError: (error, _change, before) => {
      for (const [key, shown] of before ?? []) cache.setQueryData(key, shown); // what was shown early is taken back
      return error.problem.status === 0 || error.problem.status === 503 ? undefined : cache.invalidateQueries({ queryKey: keys.design(id) });
    },
  };
}

/** Send an edit; where somebody else was faster and nothing of theirs is touched, send it again on top of theirs. */
async function beside(id: string, change: Change, version: number): Promise<Schemas["Edited"]> {
  let [now, seen] = [change, version];
  for (let tries = 0; ; tries += 1)
    try {
      return await send(id, now, seen);
    } catch (error) {
      const met = error instanceof Refusal ? error.problem.clash : null;
      if (!met || met.clashes.length > 0 || met.on_top.length === 0 || tries === 8) throw error;
      [now, seen] = [{ kind: "patch", patch: met.on_top }, met.version];
    }
}

async function send(id: string, change: Change, version: number): Promise<Schemas["Edited"]> {
  const params = { path: { design_id: id }, header: { "if-match": `"${version}"` } };
  switch (change.kind) {
    case "patch":
      return unwrap(
        await http.PATCH("/api/designs/{design_id}/draft", { params, body: change.patch, headers: { "Content-Type": "application/json-patch+json" } }),
      );
    case "rename": {
      const preview = unwrap(await http.POST("/api/designs/{design_id}/draft/rename", { params: { path: { design_id: id } }, body: change.wanted }));
      return send(id, { kind: "patch", patch: preview.patch }, version);
    }
    case "cells":
      return unwrap(await http.POST("/api/designs/{design_id}/draft/memberships", { params, body: change.cells }));
    case "undo":
      return unwrap(await http.POST("/api/designs/{design_id}/draft/undo", { params }));
    case "redo":
      return unwrap(await http.POST("/api/designs/{design_id}/draft/redo", { params }));
  }
}
