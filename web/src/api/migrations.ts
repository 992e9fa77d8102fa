import { useSettled } from "../parts/useSettled";
import { http, type Schemas } from "./client";
import { path, usePart } from "./queries";
import type { BuildView } from "./sheets";

export type Asked = Schemas["Asked"];
export type Plan = { kind: string } & Record<string, string>;
export type MigrationView = Omit<Schemas["MigrationView"], "build"> & { build: BuildView };

/** What a migration asks for, from what is said so far. */
export function useAsked(id: string, said: Plan) {
  const now = JSON.stringify(said);
  const settled = useSettled(now);
  const body = JSON.parse(settled) as Plan;
  const found = usePart(id, ["migrate-asked", body], () => http.POST("/api/designs/{design_id}/draft/migrate/asked", { params: path(id), body }));
  return settled === now ? found : ({ ...found, isPlaceholderData: true } as typeof found);
}

/** What a migration would do, and the steps between; null = too little is said yet. */
export function useMigration(id: string, plan: Plan | null) {
  const body = plan ?? { kind: "" };
  const found = usePart(id, ["migrate", plan], () => http.POST("/api/designs/{design_id}/draft/migrate", { params: path(id), body }), plan !== null);
  return found as unknown as Omit<typeof found, "data"> & { data: MigrationView | undefined };
}
