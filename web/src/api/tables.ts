import { http, type Schemas } from "./client";
import { useSettled } from "../parts/useSettled";
import { usePart } from "./queries";

export type Reading = Schemas["TableReading"];
const path = (id: string) => ({ path: { design_id: id } });

/** What reading a table would do; null = there is nothing to read. Asked once typing rests. */
export function useReading(id: string, wanted: Schemas["ReadTable"] | null) {
  const now = JSON.stringify(wanted);
  const settled = useSettled(now);
  const rested = JSON.parse(settled) as Schemas["ReadTable"] | null;
  const body = rested ?? { text: "", kind: "", replace: false };
  const found = usePart(id, ["read-table", rested], () => http.POST("/api/designs/{design_id}/draft/read-table", { params: path(id), body }), rested !== null);
  return settled === now ? found : ({ ...found, isPlaceholderData: true, isError: false } as typeof found);
}
