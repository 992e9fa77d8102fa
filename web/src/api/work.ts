import { useIsFetching, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { http, Refusal, type Schemas, unwrap } from "./client";
import { keys } from "./keys";
import { path } from "./queries";

/** Milliseconds of waiting before a person is told of it. */
const SOON = 900;
const AGAIN = 700;

/** The header is set for every request by the client itself. */
const named = { header: { "x-page": "" } };

/** What this page waits for, once it has waited a while: how far it is, and a stop. `stopped`: it was stopped, and can be asked again. */
export function useWork(id: string): { work: Schemas["Progress"] | null; stop: () => void; stopped: boolean; again: () => void } {
  const cache = useQueryClient();
  const asked = useIsFetching({ queryKey: keys.design(id) }) > 0;
  const [long, setLong] = useState(false);
  useEffect(() => {
    if (!asked) return;
    const timer = setTimeout(() => setLong(true), SOON);
    return () => {
      clearTimeout(timer);
      setLong(false);
    };
  }, [asked]);
  const found = useQuery({
    queryKey: ["work", id],
    queryFn: async () => unwrap(await http.GET("/api/designs/{design_id}/work", { params: { ...path(id), ...named } })),
    enabled: long,
    refetchInterval: AGAIN,
    gcTime: 0,
    retry: false,
  });
  const stopped = cache
    .getQueryCache()
    .findAll({ queryKey: keys.design(id), type: "active" })
    .some((q) => q.state.fetchStatus === "idle" && wasStopped(q.state.error));
  return {
    work: long && found.data && found.data.questions > 0 ? found.data : null,
    stop: () => void http.DELETE("/api/designs/{design_id}/work", { params: { ...path(id), ...named } }),
    stopped: !asked && stopped,
    again: () => void cache.refetchQueries({ queryKey: keys.design(id), type: "active", predicate: (q) => wasStopped(q.state.error) }),
  };
}

function wasStopped(error: unknown): boolean {
  return error instanceof Refusal && error.problem.title === "Stopped";
}
