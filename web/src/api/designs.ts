import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { http, Refusal, type Schemas, unwrap } from "./client";
import { keys } from "./keys";

/** The starting points that ship with the program. */
export function useStarts() {
  return useQuery({ queryKey: ["starts"], queryFn: async () => unwrap(await http.GET("/api/starts")), staleTime: Infinity });
}

/** The designs that were removed and can be brought back. */
export function useRemoved() {
  return useQuery({ queryKey: ["removed"], queryFn: async () => unwrap(await http.GET("/api/removed-designs")) });
}

export type DesignChange =
  { kind: "begin"; wanted: Schemas["NewDesign"] } | { kind: "file"; text: string } | { kind: "remove"; id: string } | { kind: "bring-back"; id: string };

/** Begin, bring in, remove or bring back a design; the answer is the id of what came, where anything did. */
export function useDesignChange() {
  const cache = useQueryClient();
  return useMutation<string | null, Refusal, DesignChange>({
    mutationFn: async (change) => {
      switch (change.kind) {
        case "begin":
          return unwrap(await http.POST("/api/designs/new", { body: change.wanted })).id;
        case "file":
          return unwrap(
            await http.POST("/api/designs", { body: change.text, bodySerializer: (body: string) => body, headers: { "Content-Type": "application/yaml" } }),
          ).id;
        case "remove":
          unwrap(await http.DELETE("/api/designs/{design_id}", { params: { path: { design_id: change.id } } }));
          return null;
        case "bring-back":
          unwrap(await http.POST("/api/removed-designs/{design_id}/bring-back", { params: { path: { design_id: change.id } } }));
          return change.id;
      }
    },
    onSuccess: async () => {
      await cache.invalidateQueries({ queryKey: keys.designs });
      await cache.invalidateQueries({ queryKey: ["removed"] });
    },
  });
}
