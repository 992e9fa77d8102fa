import { useQuery } from "@tanstack/react-query";
import { http, type Patch, type Schemas, unwrap } from "./client";
import { useSettled } from "../parts/useSettled";
import { usePart } from "./queries";

export type FormField = Schemas["FormField"];
export type Preview = Schemas["Preview"];
const path = (id: string) => ({ path: { design_id: id } });

/** The forms of all models, and what can be made: the same for every design, asked once. */
export function useForms() {
  return useQuery({ queryKey: ["forms"], queryFn: async () => unwrap(await http.GET("/api/forms")), staleTime: Infinity });
}

/** What a name of some kind may be, as seen from a thing; asked when `ref` is one. */
export function useChoices(id: string, ref: string | null, at: string) {
  const query = { ref: ref ?? "", at };
  return usePart(id, ["choices", query], () => http.GET("/api/designs/{design_id}/draft/choices", { params: { ...path(id), query } }), ref !== null);
}

/** Where a way out could begin. */
export function useWaysOut(id: string) {
  return usePart(id, ["ways-out"], () => http.GET("/api/designs/{design_id}/draft/way-out/proposals", { params: path(id) }));
}

/** A new thing as it is proposed; null = none is wanted. */
export function useFresh(id: string, wanted: { kind: string; at: string } | null) {
  const query = wanted ?? { kind: "", at: "" };
  return usePart(id, ["fresh", wanted], () => http.GET("/api/designs/{design_id}/draft/fresh", { params: { ...path(id), query } }), wanted !== null);
}

/** What a person wants made, by the action that makes it. */
export type Wanted =
  | { action: "make"; body: Schemas["NewThing"] }
  | { action: "new-device"; body: Schemas["NewDevice"] }
  | { action: "new-ports"; body: Schemas["NewPorts"] }
  | { action: "new-host"; body: Schemas["NewHost"] }
  | { action: "new-cables"; body: Schemas["NewCables"] }
  | { action: "bundle"; body: Schemas["BundlePorts"] }
  | { action: "inline-pair"; body: Schemas["InlinePair"] }
  | { action: "little-switch"; body: Schemas["LittleSwitch"] }
  | { action: "only-theirs"; body: Schemas["OnlyTheirs"] }
  | { action: "phone-and-desk"; body: Schemas["PhoneAndDesk"] }
  | { action: "join-routed"; body: Schemas["JoinRouted"] }
  | { action: "rename-ports"; body: Schemas["RenamePorts"] }
  | { action: "remove-ports"; body: Schemas["RemovePorts"] }
  | { action: "copy-thing"; body: Schemas["CopyThing"] }
  | { action: "copy-tenant"; body: Schemas["CopyTenant"] }
  | { action: "copy-segment"; body: Schemas["CopySegment"] }
  | { action: "vlan-list"; body: Schemas["VlanList"] }
  | { action: "way-out"; body: Schemas["WayOut"] }
  | { action: "make-pair"; body: Schemas["MakePair"] };

async function asked(id: string, wanted: Wanted) {
  const params = path(id);
  switch (wanted.action) {
    case "make":
      return http.POST("/api/designs/{design_id}/draft/make", { params, body: wanted.body });
    case "new-device":
      return http.POST("/api/designs/{design_id}/draft/new-device", { params, body: wanted.body });
    case "new-ports":
      return http.POST("/api/designs/{design_id}/draft/new-ports", { params, body: wanted.body });
    case "new-host":
      return http.POST("/api/designs/{design_id}/draft/new-host", { params, body: wanted.body });
    case "new-cables":
      return http.POST("/api/designs/{design_id}/draft/new-cables", { params, body: wanted.body });
    case "bundle":
      return http.POST("/api/designs/{design_id}/draft/bundle", { params, body: wanted.body });
    case "inline-pair":
      return http.POST("/api/designs/{design_id}/draft/inline-pair", { params, body: wanted.body });
    case "little-switch":
      return http.POST("/api/designs/{design_id}/draft/little-switch", { params, body: wanted.body });
    case "only-theirs":
      return http.POST("/api/designs/{design_id}/draft/only-theirs", { params, body: wanted.body });
    case "phone-and-desk":
      return http.POST("/api/designs/{design_id}/draft/phone-and-desk", { params, body: wanted.body });
    case "join-routed":
      return http.POST("/api/designs/{design_id}/draft/join-routed", { params, body: wanted.body });
    case "rename-ports":
      return http.POST("/api/designs/{design_id}/draft/rename-ports", { params, body: wanted.body });
    case "remove-ports":
      return http.POST("/api/designs/{design_id}/draft/remove-ports", { params, body: wanted.body });
    case "copy-thing":
      return http.POST("/api/designs/{design_id}/draft/copy-thing", { params, body: wanted.body });
    case "copy-tenant":
      return http.POST("/api/designs/{design_id}/draft/copy-tenant", { params, body: wanted.body });
    case "copy-segment":
      return http.POST("/api/designs/{design_id}/draft/copy-segment", { params, body: wanted.body });
    case "vlan-list":
      return http.POST("/api/designs/{design_id}/draft/vlan-list", { params, body: wanted.body });
    case "way-out":
      return http.POST("/api/designs/{design_id}/draft/way-out", { params, body: wanted.body });
    case "make-pair":
      return http.POST("/api/designs/{design_id}/draft/make-pair", { params, body: wanted.body });
  }
}

/** What making it would change, asked once the typing rests; null = too little is known yet. */
export function useMakePreview(id: string, wanted: Wanted | null) {
  const now = JSON.stringify(wanted);
  const settled = useSettled(now);
  const rested = JSON.parse(settled) as Wanted | null;
  const found = usePart(id, ["making", rested], () => asked(id, rested ?? { action: "new-ports", body: { device: "", ports: "" } }), rested !== null);
  return settled === now ? found : ({ ...found, isPlaceholderData: true, isError: false } as typeof found);
}

export type Copied = Extract<Wanted, { action: "copy-thing" | "copy-tenant" | "copy-segment" }>;

/** What a copy has of its own, with a value for each; null = nobody asks. */
export function useCopyFields(id: string, wanted: Copied | null) {
  return usePart(
    id,
    ["copy-fields", wanted],
    () => fieldsOf(id, wanted ?? { action: "copy-thing", body: { pointer: "", name: "", values: {} } }),
    wanted !== null,
  );
}

function fieldsOf(id: string, wanted: Copied) {
  const params = path(id);
  switch (wanted.action) {
    case "copy-thing":
      return http.POST("/api/designs/{design_id}/draft/thing-fields", { params, body: wanted.body });
    case "copy-tenant":
      return http.POST("/api/designs/{design_id}/draft/tenant-fields", { params, body: wanted.body });
    case "copy-segment":
      return http.POST("/api/designs/{design_id}/draft/segment-fields", { params, body: wanted.body });
  }
}

/** The edit as it was worked out for what is typed now; null while it is on its way, refused, or that of what was typed before. */
export function workedOut(preview: { data?: Schemas["Preview"] | undefined; isError: boolean; isPlaceholderData: boolean }): Schemas["Preview"] | null {
  return preview.data && !preview.isError && !preview.isPlaceholderData ? preview.data : null;
}

/** Work the edit out and return it, for what is made without a look before. */
export async function patchOf(id: string, wanted: Wanted): Promise<Patch> {
  return unwrap(await asked(id, wanted)).patch;
}
