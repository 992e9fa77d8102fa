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
    question: { service: search.get("service"), family: family === "4" ? 4 : family === "6" ? 6 : null },
    transits: search.get("transits") === "1",
    passing: search.get("passing") === "1",
  };
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
  if (place.transits) search.set("transits", "1");
  if (place.passing) search.set("passing", "1");
  const text = search.toString();
  return `/d/${place.design ?? ""}/${place.stage}${text ? `?${text}` : ""}`;
}

export function usePlace(): { place: Place; go: (change: Partial<Place>) => void } {
  const [path, navigate] = useLocation();
  const [search] = useSearchParams();
  const place = readPlace(path, search);
  const here = writePlace(place);
  const go = useCallback(
    (change: Partial<Place>) => {
      const [now, query] = here.split("?");
      const next = writePlace({ ...readPlace(now ?? "", new URLSearchParams(query)), ...change });
      if (next !== here) navigate(next);
    },
    [here, navigate],
  );
  return { place, go };
}
