import { useMutation, useQueryClient } from "@tanstack/react-query";
import { http, type Refusal, type Schemas, unwrap } from "./client";
import { keys } from "./keys";
import { path, usePart } from "./queries";

export function useRevisions(id: string) {
  return usePart(id, ["revisions"], () => http.GET("/api/designs/{design_id}/revisions", { params: path(id) }));
}

/** Compare two states by their words: `draft`, `revision 3`, `design ID`. */
export function useComparison(id: string, one: string | null, two: string | null) {
  const query = { one: one ?? "", two: two ?? "" };
  return usePart(id, ["compare", query], () => http.GET("/api/designs/{design_id}/compare", { params: { ...path(id), query } }), one !== null && two !== null);
}

export function useSiblings(id: string, one: string | null, two: string | null) {
  const query = { one: one ?? "", two: two ?? "" };
  return usePart(
    id,
    ["siblings", query],
    () => http.GET("/api/designs/{design_id}/siblings", { params: { ...path(id), query } }),
    one !== null && two !== null,
  );
}

export function useLog(id: string) {
  return usePart(id, ["log"], () => http.GET("/api/designs/{design_id}/log", { params: path(id) }));
}

/** What folding a what-if back would do; asked only while its dialog is open. */
export function useFolding(id: string | null, wins: "mine" | "theirs") {
  return usePart(id ?? "", ["fold", wins], () => http.GET("/api/designs/{design_id}/fold", { params: { ...path(id ?? ""), query: { wins } } }), id !== null);
}

const seen = (version: number) => ({ "if-match": `"${version}"` });

/** What can be done with states: publish, restore, begin a what-if, fold it back, drop it. */
export function useHistory(id: string) {
  const cache = useQueryClient();
  const onSuccess = () => Promise.all([cache.invalidateQueries({ queryKey: keys.design(id) }), cache.invalidateQueries({ queryKey: keys.designs })]);
  const publish = useMutation<Schemas["Revision"], Refusal, { version: number; body: Schemas["Publish"] }>({
    mutationFn: async ({ version, body }) =>
      unwrap(await http.POST("/api/designs/{design_id}/revisions", { params: { ...path(id), header: seen(version) }, body })),
    onSuccess,
  });
  const restore = useMutation<Schemas["Edited"], Refusal, { version: number; number: number }>({
    mutationFn: async ({ version, number }) =>
      unwrap(await http.POST("/api/designs/{design_id}/revisions/{number}/restore", { params: { path: { design_id: id, number }, header: seen(version) } })),
    onSuccess,
  });
  const branch = useMutation<Schemas["Summary"], Refusal, Schemas["NewBranch"]>({
    mutationFn: async (body) => unwrap(await http.POST("/api/designs/{design_id}/branches", { params: path(id), body })),
    onSuccess,
  });
  const fold = useMutation<Schemas["Edited"], Refusal, { branch: string; version: number; wins: "mine" | "theirs" }>({
    mutationFn: async ({ branch: of, version, wins }) =>
      unwrap(await http.POST("/api/designs/{design_id}/fold", { params: { path: { design_id: of }, header: seen(version), query: { wins } } })),
    onSuccess: () => void onSuccess(), // the what-if is gone: its page has to be left before anything of it is asked anew
  });
  const drop = useMutation<undefined, Refusal, string>({
    mutationFn: async (of) => unwrap(await http.DELETE("/api/designs/{design_id}/branch", { params: { path: { design_id: of } } })),
    onSuccess,
  });
  const compareFile = useMutation<Schemas["Comparison"], Refusal, { one: string; text: string }>({
    mutationFn: async ({ one, text }) =>
      unwrap(
        await http.POST("/api/designs/{design_id}/compare-file", {
          params: { ...path(id), query: { one } },
          body: text as never,
          bodySerializer: (body: unknown) => body as string,
          headers: { "Content-Type": "application/yaml" },
        }),
      ),
  });
  return { publish, restore, branch, fold, drop, compareFile };
}
