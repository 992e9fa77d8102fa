/** The stages of the climb, from the cable up. */
export const STAGES = ["cabling", "segments", "routing", "zones", "reach", "failover", "expectations", "history"] as const;
export type StageName = (typeof STAGES)[number];

export const STAGE_WORDS: Record<StageName, { title: string; about: string }> = {
  cabling: { title: "Cabling", about: "The site drawn from its cables: devices, bundles, what is up and what is not." },
  segments: { title: "Segments", about: "VLANs and ports, and which of them hear each other." },
  routing: { title: "Routing", about: "The table of every VRF as the box would have it, and which route wins." },
  zones: { title: "Zones", about: "Who may open to whom, and what each rule really decides." },
  reach: { title: "Reach", about: "Segments against segments: what passes, and what stops the rest first." },
  failover: { title: "Failover", about: "Fail a unit, a cable or a switch, and watch the other take over." },
  expectations: { title: "Expectations", about: "What must be open, what must stay closed, and which edit broke it." },
  history: { title: "History", about: "Published revisions, compared as configuration and as reach." },
};

export function isStage(text: string | undefined): text is StageName {
  return STAGES.some((s) => s === text);
}
