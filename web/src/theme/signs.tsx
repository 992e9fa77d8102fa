import type { Schemas } from "../api/client";
import type { ReactNode } from "react";

/** Signs of verdicts: told apart by shape first, by colour second (docs/look.md). */
type Cell = Schemas["MatrixCell"];
export type Tone = Cell["tone"];

const BROKEN: Record<string, ReactNode> = {
  link: <path d="M1.5 11.5 6 9M12 9l4.500-2.500M7.800 5.500l2.400 7" />,
  vlan: <path d="M9 4.500H3v9h6M11.500 4.500l4 4.500-4 4.500" />,
  gateway: <path d="M3.500 15V8.500a5.500 5.500 0 0 1 11 0V15M6.500 11h5" />,
  route: <path d="M9 15.500V9.500M9 9.500 4 4M9 9.500l1.500-1.700M13 5.200 14.200 4" />,
  return: <path d="M3.500 5h7a4 4 0 0 1 0 8M3.500 13h1.500M3.500 10.800v4.400" />,
  zone: <path d="M3 3h3M12 3h3v3M15 12v3h-3M6 15H3v-3M3 6V5M9 7v4M7 9h4" />,
  isolation: <path d="M6.500 3v12M11.500 3v12" />,
  standby: <path d="M12 3.500a6 6 0 1 0 0 11 7 7 0 0 1 0-11z" />,
};

/** One verdict as an 18 x 18 sign. `layer` says what stops it, where something does. */
export function VerdictSign({ tone, verdict, layer, size = 18 }: { tone: Tone; verdict: Cell["verdict"]; layer: Cell["layer"]; size?: number }) {
  return (
    <svg width={size} height={size} viewBox="0 0 18 18" fill="none" aria-hidden="true" strokeLinecap="round" strokeLinejoin="round">
      {shape(tone, verdict, layer)}
    </svg>
  );
}

function shape(tone: Tone, verdict: Cell["verdict"], layer: Cell["layer"]): ReactNode {
  if (verdict === "all") return <circle cx="9" cy="9" r="6" className="fill-primary" />;
  if (verdict === "some")
    return (
      <>
        <circle cx="9" cy="9" r="5.400" className="stroke-primary" strokeWidth="1.400" />
        <path d="M3.600 9a5.400 5.400 0 0 0 10.800 0z" className="fill-primary" />
      </>
    );
  if (tone === "apart") return <circle cx="9" cy="9" r="1.500" className="fill-base-content opacity-45" />;
  if (tone === "closed")
    return (
      <g className="stroke-secondary" strokeWidth="1.300">
        <rect x="4.500" y="4.500" width="9" height="9" rx="1" opacity="0.85" />
        {layer === "nat" && <path d="M4.500 13.500l9-9" />}
        {layer === "answers" && <path d="M7 9h4" />}
      </g>
    );
  return (
    <g className="stroke-error" strokeWidth="1.900">
      {BROKEN[layer ?? ""] ?? <path d="M4 4l10 10M14 4L4 14" />}
    </g>
  );
}

/** What a port is to a VLAN. */
export type Membership = Schemas["GridRow"]["cells"][number];

export const MEMBERSHIP_WORDS: Record<Membership, string> = {
  untagged: "untagged, with PVID",
  tagged: "tagged",
  leaves: "sent untagged, but not its PVID",
  enters: "its PVID, but no member",
  routed: "a subinterface (layer 3)",
  "": "not a member",
};

/** A tag with its eyelet = tagged; a solid block = untagged; halves of a block = one way only; a summit = layer 3. */
export function MembershipSign({ state, size = 16 }: { state: Membership; size?: number }) {
  if (state === "") return null;
  return (
    <svg width={size} height={size} viewBox="0 0 16 16" fill="none" aria-hidden="true" strokeLinejoin="round" strokeLinecap="round">
      {state === "untagged" && <rect x="3" y="4.500" width="10" height="7" rx="1.500" className="fill-primary" />}
      {state === "tagged" && (
        <>
          <path d="M2.500 4.500h7.200L13.500 8l-3.800 3.500H2.500z" className="stroke-secondary" strokeWidth="1.400" />
          <circle cx="9.700" cy="8" r="0.900" className="fill-secondary" />
        </>
      )}
      {state === "leaves" && (
        <path
          d="M8 4.500h3.500a1.500 1.500 0 0 1 1.500 1.500v4a1.500 1.500 0 0 1-1.500 1.500H8z M2.500 8h3.500"
          className="fill-error stroke-error"
          strokeWidth="1.300"
        />
      )}
      {state === "enters" && (
        <path d="M8 4.500H4.500A1.500 1.500 0 0 0 3 6v4a1.500 1.500 0 0 0 1.500 1.500H8z M10 8h3.500" className="fill-error stroke-error" strokeWidth="1.300" />
      )}
      {state === "routed" && <path d="M2.500 12 8 4l5.500 8z" className="stroke-accent" strokeWidth="1.400" />}
    </svg>
  );
}

/** What has become of a VLAN. */
export function StateSign({ state }: { state: string }) {
  return (
    <svg width="16" height="16" viewBox="0 0 16 16" fill="none" aria-hidden="true" strokeLinecap="round">
      {state === "whole" && <circle cx="8" cy="8" r="4.500" className="stroke-primary" strokeWidth="1.800" />}
      {state === "switched" && <circle cx="8" cy="8" r="4.500" className="stroke-secondary" strokeWidth="1.400" strokeDasharray="2.400 2.300" />}
      {state === "islands" && (
        <path d="M6.700 3.700a4.500 4.500 0 0 0 0 8.600M9.900 3.700a4.500 4.500 0 0 1 0 8.600" className="stroke-error" strokeWidth="2" />
      )}
      {state === "merged" && (
        <g className="stroke-accent" strokeWidth="1.600">
          <circle cx="6" cy="8" r="3.500" />
          <circle cx="10" cy="8" r="3.500" />
        </g>
      )}
      {state === "empty" && <path d="M5.500 8h5" className="stroke-base-content opacity-45" strokeWidth="1.500" />}
    </svg>
  );
}
