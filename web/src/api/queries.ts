import { keepPreviousData, useMutation, useQueries, useQuery, useQueryClient } from "@tanstack/react-query";
import { http, type Outcome, type Patch, type Schemas, unwrap } from "./client";
import { changing } from "./editing";
import { keys } from "./keys";

export interface Question {
  service: string | null;
  family: 4 | 6 | null;
  /** `always`, or a local time; null = at some time. */
  asOf: string | null;
}

export function useDesigns() {
  return useQuery({ queryKey: keys.designs, queryFn: async () => unwrap(await http.GET("/api/designs")), retry: true, retryDelay: 2000 });
}

/** Fetch one part of a design; the last answer stays on screen while a new one is fetched. `wanted` defaults to true. */
export function usePart<T>(id: string, part: unknown[], fetch: () => Promise<Outcome<T>>, wanted = true) {
  return useQuery({
    queryKey: keys.part(id, ...part),
    queryFn: async () => unwrap(await fetch()),
    enabled: wanted,
    placeholderData: keepPreviousData,
    retry: false,
  });
}

export const path = (id: string) => ({ path: { design_id: id } });

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

/** Both ends of every cable, side by side. */
export function useEnds(id: string) {
  return usePart(id, ["ends"], () => http.GET("/api/designs/{design_id}/views/ends", { params: path(id) }));
}

export function useCabling(id: string, failed: string[]) {
  return usePart(id, ["cabling", failed], () => http.GET("/api/designs/{design_id}/views/cabling", { params: { ...path(id), query: { failed } } }));
}

/** Segments and the boxes that route between them, to be drawn; asked only when that drawing is looked at. */
export function useSegmentDrawing(id: string, wanted: boolean) {
  return usePart(id, ["segment-drawing"], () => http.GET("/api/designs/{design_id}/views/segment-drawing", { params: path(id) }), wanted);
}

/** What is lost while some parts have failed; asked only while some have. */
export function useWhatIf(id: string, failed: string[]) {
  return usePart(
    id,
    ["what-if", failed],
    () => http.GET("/api/designs/{design_id}/views/what-if", { params: { ...path(id), query: { failed } } }),
    failed.length > 0,
  );
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

/** The matrix of a large site, a letter a pair. */
export function useMatrixMap(
  id: string,
  question: Question,
  transits: boolean,
  view: { group: "zone" | "vlan" | "device"; order: "plan" | "like"; fold: string[] },
) {
  const query = { ...asked(question), transits, group: view.group, order: view.order, fold: view.fold };
  return usePart(id, ["matrix-map", query], () => http.GET("/api/designs/{design_id}/views/matrix-map", { params: { ...path(id), query } }));
}

/** What the letters of some tiles leave open, by "from to". */
export function useTiles(id: string, question: Question, tiles: { sources: string[]; targets: string[] }[]) {
  const query = asked(question);
  return useQueries({
    queries: tiles.map((tile) => ({
      queryKey: keys.part(id, "matrix-tile", query, tile),
      queryFn: async () => unwrap(await http.POST("/api/designs/{design_id}/views/matrix-tile", { params: { ...path(id), query }, body: tile })),
      retry: false,
    })),
    combine: (answers) => {
      const out = new Map<string, Schemas["MatrixCell"]>();
      answers.forEach((answer, k) => {
        for (const one of answer.data ?? []) out.set(`${tiles[k]?.sources[one.row]} ${tiles[k]?.targets[one.column]}`, one.cell);
      });
      return out;
    },
  });
}

/** What each segment may ask of the firewalls' own addresses; asked once somebody wants to know. */
export function useOwnAddresses(id: string, wanted: boolean) {
  return usePart(id, ["own-addresses"], () => http.GET("/api/designs/{design_id}/views/own-addresses", { params: path(id) }), wanted);
}

export function usePair(id: string, pair: { from: string; to: string } | null, question: Question, passing: boolean) {
  const query = { source: pair?.from ?? "", target: pair?.to ?? "", ...asked(question), passing };
  return usePart(id, ["pair", query], () => http.GET("/api/designs/{design_id}/views/pair", { params: { ...path(id), query } }), pair !== null);
}

/** One packet that a person tries; null = none. */
export function usePacket(id: string, packet: { from: string; to: string; service: string } | null, asOf: string | null) {
  const query = { source: packet?.from ?? "", target: packet?.to ?? "", service: packet?.service ?? "", ...(asOf ? { as_of: asOf } : {}) };
  return usePart(id, ["packet", query], () => http.GET("/api/designs/{design_id}/views/packet", { params: { ...path(id), query } }), packet !== null);
}

/** What one address reaches, and who reaches it; asked once something is typed. */
export function useExposure(id: string, place: string) {
  return usePart(
    id,
    ["exposure", place],
    () => http.GET("/api/designs/{design_id}/views/exposure", { params: { ...path(id), query: { place } } }),
    place !== "",
  );
}

export function usePairs(id: string) {
  return usePart(id, ["pairs"], () => http.GET("/api/designs/{design_id}/failover/pairs", { params: path(id) }));
}

/** What happens when some parts fail; `now` = the unit that was active before, null = whoever is at rest. */
export function useEvent(id: string, failed: string[], now: string | null) {
  const query = { failed, active: now ? [now] : [] };
  return usePart(id, ["event", query], () => http.GET("/api/designs/{design_id}/failover/event", { params: { ...path(id), query } }));
}

export function useDrill(id: string, pair: string) {
  return usePart(id, ["drill", pair], () => http.GET("/api/designs/{design_id}/failover/drill", { params: { ...path(id), query: { pair } } }));
}

/** The sweep of failures: begun, asked after twice a second while it runs, stopped. */
export function useSweep(id: string) {
  const cache = useQueryClient();
  const key = ["sweep", id];
  const found = useQuery({
    queryKey: key,
    queryFn: async () => unwrap(await http.GET("/api/designs/{design_id}/failover/sweep", { params: path(id) })),
    refetchInterval: (query) => (query.state.data?.state === "running" ? 500 : false),
    retry: false,
  });
  const told = (sweep: Schemas["Sweep"]) => cache.setQueryData(key, sweep);
  const begin = useMutation({
    mutationFn: async (depth: number) => unwrap(await http.POST("/api/designs/{design_id}/failover/sweep", { params: { ...path(id), query: { depth } } })),
    onSuccess: told,
  });
  const stop = useMutation({
    mutationFn: async () => unwrap(await http.DELETE("/api/designs/{design_id}/failover/sweep", { params: path(id) })),
    onSuccess: told,
  });
  return {
    sweep: found.data,
    begin: (depth: number) => begin.mutate(depth),
    stop: () => stop.mutate(),
    refused: begin.error?.message ?? stop.error?.message ?? null,
  };
}

export function useItem(id: string, pointer: string) {
  return usePart(id, ["item", pointer], () => http.GET("/api/designs/{design_id}/views/item", { params: { ...path(id), query: { pointer } } }));
}

function asked(question: Question) {
  return {
    ...(question.service ? { service: question.service } : {}),
    ...(question.family ? { family: question.family } : {}),
    ...(question.asOf ? { as_of: question.asOf } : {}),
  };
}

/** What the finder finds for some words; asked once there are any. */
export function useFound(id: string, text: string) {
  return usePart(id, ["find", text], () => http.GET("/api/designs/{design_id}/views/find", { params: { ...path(id), query: { text } } }), text.trim() !== "");
}

/** Work out what a new VLAN would change; null = not enough is known yet. */
export function useNewVlanPreview(id: string, wanted: Schemas["NewVlan"] | null) {
  const body = wanted ?? { id: 0, name: "" };
  return usePart(id, ["new-vlan", wanted], () => http.POST("/api/designs/{design_id}/draft/new-vlan", { params: path(id), body }), wanted !== null);
}

export function useSuggestedSubnet(id: string, vlan: number) {
  const params = { path: { design_id: id, vlan } };
  return usePart(
    id,
    ["subnet", vlan],
    () => http.GET("/api/designs/{design_id}/draft/new-vlan/{vlan}/subnet", { params }),
    Number.isInteger(vlan) && vlan > 0 && vlan < 4095,
  );
}

/** Work out what taking a thing out would take along and change; null = nothing asked yet. */
export function useRemovePreview(id: string, pointer: string | null) {
  const body = { pointer: pointer ?? "" };
  return usePart(id, ["remove", pointer], () => http.POST("/api/designs/{design_id}/draft/remove", { params: path(id), body }), pointer !== null);
}

/** Work out what any JSON Patch would change; null = nothing asked yet. */
export function usePreview(id: string, patch: Patch | null) {
  return usePart(
    id,
    ["preview", patch],
    () =>
      http.POST("/api/designs/{design_id}/draft/preview", { params: path(id), body: patch ?? [], headers: { "Content-Type": "application/json-patch+json" } }),
    patch !== null,
  );
}

/** Every expectation with its verdict, and suggestions. */
export function useExpectations(id: string) {
  return usePart(id, ["expectations"], () => http.GET("/api/designs/{design_id}/views/expectations", { params: path(id) }));
}

/** The edit that broke an expectation; asked only when somebody wants to know (`name` is null until then). */
export function useBrokenBy(id: string, name: string | null) {
  return usePart(
    id,
    ["broken-by", name],
    () => http.GET("/api/designs/{design_id}/views/broken-by", { params: { ...path(id), query: { name: name ?? "" } } }),
    name !== null,
  );
}

/** Work out which rules would have to change; null = nothing asked yet. */
export function useProposals(id: string, wish: Schemas["Wish"] | null) {
  const body = wish ?? { source: "", target: "", service: "", expect: "open" as const };
  return usePart(id, ["proposals", wish], () => http.POST("/api/designs/{design_id}/draft/proposals", { params: path(id), body }), wish !== null);
}

/** Work out the edit that expects what holds between two segments now; null = nothing asked yet. */
export function useKeepPreview(id: string, pair: Schemas["Pair"] | null) {
  const body = pair ?? { source: "", target: "" };
  return usePart(id, ["keep", pair], () => http.POST("/api/designs/{design_id}/draft/keep-as-it-is", { params: path(id), body }), pair !== null);
}

/** What a new segment can be made of. */
export function useSegmentOptions(id: string) {
  return usePart(id, ["segment-options"], () => http.GET("/api/designs/{design_id}/draft/new-segment/options", { params: path(id) }));
}

/** Work out what a new segment would change; null = not enough is known yet. */
export function useNewSegmentPreview(id: string, wanted: Schemas["NewSegment"] | null) {
  const body = wanted ?? { name: "", purpose: "inside" as const, vlan: 0, way_out: true };
  return usePart(id, ["new-segment", wanted], () => http.POST("/api/designs/{design_id}/draft/new-segment", { params: path(id), body }), wanted !== null);
}

/** Layer 3 of the site: interfaces, tables, leases. */
export function useRouting(id: string) {
  return usePart(id, ["routing"], () => http.GET("/api/designs/{design_id}/views/routing", { params: path(id) }));
}

/** Which route wins for an address; `address` is "" until one is typed. */
export function useLookup(id: string, device: string, vrf: string, address: string) {
  const query = { device, vrf, address };
  return usePart(
    id,
    ["lookup", query],
    () => http.GET("/api/designs/{design_id}/views/lookup", { params: { ...path(id), query } }),
    address !== "" && device !== "",
  );
}

/** The policies of all firewalls, and what they answer; rules are marked by what is looked for. */
export function useZones(id: string, look: string) {
  return usePart(id, ["zones", look], () => http.GET("/api/designs/{design_id}/views/zones", { params: { ...path(id), query: { look } } }));
}

/** Work out what copying a port's settings would change; null = nothing asked yet. */
export function useCopyPreview(id: string, wanted: Schemas["CopyPort"] | null) {
  const body = wanted ?? { device: "", port: "", targets: "" };
  return usePart(id, ["copy-port", wanted], () => http.POST("/api/designs/{design_id}/draft/copy-port", { params: path(id), body }), wanted !== null);
}

/** Work out what switching a port's mode would drop, leave missing, and change; null = nothing asked yet. */
export function useModePreview(id: string, wanted: Schemas["NewMode"] | null) {
  const body = wanted ?? { device: "", port: "", mode: "off" as const };
  return usePart(id, ["switch-mode", wanted], () => http.POST("/api/designs/{design_id}/draft/switch-mode", { params: path(id), body }), wanted !== null);
}

/** Work out what a short form would change; null = not enough is known yet. */
export function useShortFormPreview(id: string, wanted: Schemas["ShortForm"] | null) {
  const body = wanted ?? { device: "", ports: "", form: "access" as const };
  return usePart(id, ["short-form", wanted], () => http.POST("/api/designs/{design_id}/draft/short-form", { params: path(id), body }), wanted !== null);
}

/** Make a change to the draft. */
export function useChange(id: string) {
  return useMutation(changing(id, useQueryClient()));
}
