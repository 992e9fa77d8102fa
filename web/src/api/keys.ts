/** Everything of one design hangs under one key, so that one edit makes all of it stale at once. */
export const keys = {
  designs: ["designs"] as const,
  design: (id: string) => ["design", id] as const,
  part: (id: string, ...rest: unknown[]) => ["design", id, ...rest] as const,
};
