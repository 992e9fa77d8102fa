import type { useChange } from "../api/queries";
import type { Go, Place } from "./place";

/** What every stage and the bench side are handed. */
export interface StageProps {
  design: string;
  place: Place;
  go: Go;
  /** Put the thing at a pointer on the bench side. */
  select: (pointer: string | null) => void;
  change: ReturnType<typeof useChange>;
}
