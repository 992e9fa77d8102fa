import type { Reading } from "../../api/tables";

/** The kinds of tables, by what they are called. */
export const KINDS: [string, string][] = [
  ["", "what fits best"],
  ["vlans", "VLANs"],
  ["ports", "ports"],
  ["cables", "cables"],
  ["interfaces", "interfaces"],
  ["routes", "routes"],
  ["rules", "rules"],
  ["leases", "leases"],
  ["reservations", "reservations"],
  ["endpoints", "endpoints"],
  ["expectations", "expectations"],
  ["sets", "address sets"],
  ["service-sets", "service sets"],
  ["zones", "zones"],
  ["translations", "translations"],
  ["answers", "answers"],
  ["lags", "bundles"],
  ["topology", "topology (RFC 8345)"],
  ["yang", "YANG data of boxes"],
];

/** What is called a kind of table. */
export const called = (kind: string): string => KINDS.find(([k]) => k === kind)?.[1] ?? kind;

/** The rows that have no place, under the headings they came with: what is left for mending. */
export function leftOver(reading: Pick<Reading, "headings" | "lost">): string {
  const rows = reading.lost.map((r) => r.text);
  return [...(reading.headings.length > 0 ? [reading.headings.join("\t")] : []), ...rows].join("\n");
}

/** Whether a text that is pasted somewhere is a table: several lines, or cells. */
export const isTable = (text: string): boolean => /\t|\r?\n\S/.test(text.trim());

/** What can only be taken out: the book, the drawing, and what is computed. */
export const OUT: [string, string][] = [
  ["book.html", "the site book"],
  ["cabling.svg", "the drawing (SVG)"],
  ["computed/segments.csv", "segments as they are"],
  ["computed/standing.csv", "interfaces as they are"],
  ["computed/routing.csv", "routing tables"],
  ["computed/decisions.csv", "what rules decide"],
  ["computed/judgements.csv", "expectations judged"],
  ["computed/drills.csv", "failover drills"],
  ["computed/findings.csv", "findings"],
];
