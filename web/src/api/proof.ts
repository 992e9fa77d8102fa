import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { http, type Refusal, type Schemas, unwrap } from "./client";
import { keys } from "./keys";
import { path } from "./queries";

export interface Packet {
  from: string;
  to: string;
  at: string;
  source: string;
  target: string;
  service: string;
  computed: string;
  why: string;
  seen: string;
  differs: boolean;
}

export interface Proof {
  probes: number;
  differ: Packet[];
  results: Packet[];
  said: string;
  covered: string[];
  left_out: string[];
  taken: string[];
  failed: string[];
}

export type ProofView = Omit<Schemas["ProofView"], "proof"> & { proof: Proof | null };

/** The newest proof of the draft, looked at each second while it is made. */
export function useProof(id: string) {
  return useQuery({
    queryKey: keys.part(id, "proof"),
    retry: false,
    queryFn: async () => unwrap(await http.GET("/api/designs/{design_id}/draft/proof", { params: path(id) })) as unknown as ProofView,
    refetchInterval: (query) => (query.state.data?.state === "running" ? 1000 : false),
  });
}

/** Begin one. */
export function useProve(id: string) {
  const cache = useQueryClient();
  return useMutation<ProofView, Refusal, Schemas["Wanted"]>({
    mutationFn: async (body) => unwrap(await http.POST("/api/designs/{design_id}/draft/proof", { params: path(id), body })) as unknown as ProofView,
    onSuccess: (found) => cache.setQueryData(keys.part(id, "proof"), found),
  });
}
