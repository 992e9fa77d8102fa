import { useState } from "react";
import type { Schemas } from "../api/client";
import { FindingCard } from "../parts/FindingCard";
import type { StageProps } from "./parts";
import { MakeDialog } from "./thing/MakeDialog";

type Props = Pick<StageProps, "design" | "change" | "select"> & { findings: Schemas["FindingView"][] };

/** How many stand there before one asks for more: the first are the ones to begin with. */
const FIRST = 20;

/** Findings, each with the edit that mends it, or with what could be made that would. */
export function Findings({ design, change, select, findings }: Props) {
  const [offer, setOffer] = useState<Schemas["Offer"] | null>(null);
  const [all, setAll] = useState(false);
  const told = all ? findings : findings.slice(0, FIRST);
  const sets = offer?.sets ?? null;
  const named = (name: string) => sets !== null && change.mutate({ kind: "patch", patch: [{ op: "add", path: sets, value: name }] });
  return (
    <>
      {told.map((f) => (
        <FindingCard key={f.code + f.sentence} finding={f} select={select} onMend={(patch) => change.mutate({ kind: "patch", patch })} onMake={setOffer} />
      ))}
      {told.length < findings.length && (
        <button type="button" className="btn btn-ghost btn-sm" onClick={() => setAll(true)}>
          and {findings.length - told.length} more
        </button>
      )}
      {offer && (
        <MakeDialog
          key={`${offer.kind} ${offer.at}`}
          design={design}
          kind={offer.kind}
          at={offer.at}
          owner=""
          known={offer.value as Record<string, never>}
          change={change}
          select={select}
          onClose={() => setOffer(null)}
          {...(sets === null ? {} : { onMade: named })}
        />
      )}
    </>
  );
}
