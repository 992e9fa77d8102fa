import { useCallback } from "react";
import { useLocation, useSearchParams } from "wouter";
import type { Question } from "../api/queries";
import { isStage, type StageName } from "./stages";

/** Where one is: all of it stands in the address, so a reload or a shared link loses nothing. */
export interface Place {
  design: string | null;
  stage: StageName;
  /** JSON Pointer of the selected thing. */
  at: string | null;
  /** The pair on the climb profile. */
  pair: { from: string; to: string } | null;
  question: Question;
  transits: boolean;
  passing: boolean;
  /** A packet that a person tries, in the place of one of the pair's. */
  packet: { from: string; to: string; service: string } | null;
  /** What has failed, as a what-if: boxes, `box:port`, or cables `a:1--b:2`. */
  failed: string[];
  /** The device whose tables or policy are shown; null = the first that has any. */
  box: string | null;
  /** What is looked for on a stage: an address on Routing, a filter of rules on Zones; "" = nothing. */
  look: string;
  /** What is open on the stage: a step of the policy on Zones, what is being made on Cabling and Segments. */
  step: string | null;
  /** The zone pair that rules are filtered by, as `from>to`. */
  zones: string | null;
  /** The two states, or the two things, that are compared on History. */
  one: string | null;
  two: string | null;
}

export function readPlace(path: string, search: URLSearchParams): Place {
  const [, , design, stage] = path.split("/");
  const from = search.get("from");
  const to = search.get("to");
  const family = search.get("family");
  return {
    design: design || null,
    stage: isStage(stage) ? stage : "reach",
    at: search.get("at"),
    pair: from && to ? { from, to } : null,
    question: { service: search.get("service"), family: family === "4" ? 4 : family === "6" ? 6 : null, asOf: search.get("as_of") },
    transits: search.get("transits") === "1",
    passing: search.get("passing") === "1",
    packet: packetOf(search.get("packet")),
    failed: search.getAll("failed"),
    box: search.get("box"),
    look: search.get("look") ?? "",
    step: search.get("step"),
    zones: search.get("zones"),
    one: search.get("one"),
    two: search.get("two"),
  };
}

function packetOf(text: string | null): Place["packet"] {
  const [from, to, service] = (text ?? "").split("|");
  return from && to && service ? { from, to, service } : null;
}

export function writePlace(place: Place): string {
  const search = new URLSearchParams();
  if (place.at !== null) search.set("at", place.at);
  if (place.pair) {
    search.set("from", place.pair.from);
    search.set("to", place.pair.to);
  }
  if (place.question.service) search.set("service", place.question.service);
  if (place.question.family) search.set("family", String(place.question.family));
  if (place.question.asOf) search.set("as_of", place.question.asOf);
  if (place.transits) search.set("transits", "1");
  if (place.passing) search.set("passing", "1");
  if (place.packet) search.set("packet", [place.packet.from, place.packet.to, place.packet.service].join("|"));
  if (place.box) search.set("box", place.box);
  if (place.look) search.set("look", place.look);
  if (place.step) search.set("step", place.step);
  if (place.zones) search.set("zones", place.zones);
  if (place.one) search.set("one", place.one);
  if (place.two) search.set("two", place.two);
  for (const part of place.failed) search.append("failed", part);
  const text = search.toString();
  if (place.design === null) return "/";
  return `/d/${place.design ?? ""}/${place.stage}${text ? `?${text}` : ""}`;
}

/** Go elsewhere by changing part of the place; `passing` = on the way (an arrow key), so the browser's history keeps one entry. */
export type Go = (change: Partial<Place>, passing?: boolean) => void;

export function usePlace(): { place: Place; go: Go } {
  const [path, navigate] = useLocation();
  const [search] = useSearchParams();
  const place = readPlace(path, search);
  const here = writePlace(place);
  const go = useCallback(
    (change: Partial<Place>, passing = false) => {
      const [now, query] = here.split("?");
      const before = readPlace(now ?? "", new URLSearchParams(query));
      const leaves = change.stage !== undefined && change.stage !== before.stage;
      const failing = (stage: string | undefined) => stage === "cabling" || stage === "failover";
      const failed = failing(before.stage) && failing(change.stage) ? before.failed : []; // drawn on the site as well
      const elsewhere = leaves ? { failed, look: "", step: null, zones: null, one: null, two: null, ...change } : {}; // what-ifs and filters stay on their stage
      const next = writePlace({ ...readPlace(now ?? "", new URLSearchParams(query)), ...change, ...elsewhere });
      if (next !== here) navigate(next, { replace: passing });
    },
    [here, navigate],
  );
  return { place, go };
}
