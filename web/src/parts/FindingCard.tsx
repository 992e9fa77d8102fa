import type { Patch, Schemas } from "../api/client";

const TONE: Record<Schemas["FindingView"]["severity"], string> = { breaks: "border-l-error", risks: "border-l-accent", untidy: "border-l-base-content/30" };

interface Props {
  finding: Schemas["FindingView"];
  select: (pointer: string) => void;
  onMend: (patch: Patch) => void;
  onMake: (offer: Schemas["Offer"]) => void;
}

/** As the buttons say it. */
const MAKES: Record<string, string> = {
  zone: "Make a zone for it",
  subinterface: "Make the gateway",
  "vlan-interface": "Make the gateway",
  lease: "Hand out leases",
  route: "Add a route",
};

/** One finding: what, where, and the one edit that mends it where there is one. */
export function FindingCard({ finding, select, onMend, onMake }: Props) {
  const place = finding.pointers[0];
  return (
    <article className={`hair mb-2 rounded-r border border-l-[3px] p-2 ${TONE[finding.severity] ?? ""}`} data-finding={finding.code}>
      <p className="muted mb-0.5 text-[11px]">
        {finding.severity} · <span className="font-mono">{finding.code}</span>
      </p>
      <p>{finding.sentence}</p>
      <p className="mt-1.5 flex flex-wrap gap-x-3 gap-y-1.5">
        {finding.mend && (
          <button type="button" className="btn btn-primary btn-xs" onClick={() => onMend(finding.mend as Patch)}>
            Mend it
          </button>
        )}
        {finding.also.map((choice) => (
          <button key={choice.words} type="button" className="btn btn-outline btn-xs" onClick={() => onMend(choice.patch as Patch)}>
            {choice.words}
          </button>
        ))}
        {finding.makes.map((offer) => (
          <button key={`${offer.kind} ${offer.at}`} type="button" className="btn btn-outline btn-xs" onClick={() => onMake(offer)}>
            {MAKES[offer.kind] ?? "Make it"}
            {finding.makes.length > 1 && ` on ${offer.title}`}…
          </button>
        ))}
        {place !== undefined && (
          <button type="button" className="link-quiet" onClick={() => select(place)}>
            Show the place
          </button>
        )}
      </p>
    </article>
  );
}
