import { PlugZap } from "lucide-react";
import { type ReactNode, useState } from "react";
import { usePlug } from "../api/queries";
import type { Place } from "./place";

interface Props {
  design: string;
  /** device:port */
  place: string;
  /** Tags the port carries, each worth trying. */
  tags: number[];
  go: (change: Partial<Place>) => void;
}

/** Plug in: a laptop on this port, untagged or in one of its tags; what it finds, gets and reaches. */
export function Probe({ design, place, tags, go }: Props) {
  const [asked, setAsked] = useState<{ tag: number | null } | null>(null);
  const found = usePlug(design, asked ? place : null, asked?.tag ?? null);
  return (
    <section aria-label="Plug in">
      <h3 className="eyebrow mb-1">Plug in</h3>
      <p className="flex flex-wrap gap-1">
        {[null, ...tags].map((tag) => (
          <button
            key={tag ?? "untagged"}
            type="button"
            aria-pressed={asked !== null && asked.tag === tag}
            className={`hair flex h-7 cursor-pointer items-center gap-1 rounded border px-2 ${asked !== null && asked.tag === tag ? "bg-neutral text-neutral-content" : "hover:bg-base-200"}`}
            onClick={() => setAsked({ tag })}
          >
            {tag === null && <PlugZap size={13} aria-hidden="true" />}
            {tag === null ? "a laptop" : `tag ${tag}`}
          </button>
        ))}
      </p>
      {asked && found.data && (
        <dl className="mt-2 grid grid-cols-[5rem_1fr] gap-x-2 gap-y-1" data-testid="plug">
          {found.data.layer && (
            <Row term="stops at">
              <strong className="text-error">{found.data.layer}</strong>
            </Row>
          )}
          <Row term="">{found.data.reason}</Row>
          {found.data.segment && <Row term="segment">{`${found.data.segment}${found.data.vlan ? ` (VLAN ${found.data.vlan})` : ""}`}</Row>}
          {found.data.address && <Row term="address">{found.data.address}</Row>}
          {found.data.gateway && <Row term="gateway">{found.data.gateway}</Row>}
          {Object.entries(found.data.options).map(([key, value]) => (
            <Row key={key} term={key.replaceAll("_", " ")}>
              {value}
            </Row>
          ))}
          {found.data.names && (
            <Row term="names">
              <span className={found.data.names_layer ? "text-error" : ""}>{found.data.names}</span>
            </Row>
          )}
          {found.data.static && <Row term="tried with">{found.data.static}</Row>}
          <Row term="reaches">
            {found.data.reaches.length === 0 && "nothing"}
            {found.data.reaches.map((name, k) => (
              <span key={name}>
                {k > 0 && ", "}
                <button
                  type="button"
                  className="link-quiet"
                  onClick={() => go({ stage: "reach", pair: found.data.segment ? { from: found.data.segment, to: name } : null })}
                >
                  {name}
                </button>
              </span>
            ))}
          </Row>
        </dl>
      )}
    </section>
  );
}

function Row({ term, children }: { term: string; children: ReactNode }) {
  return (
    <>
      <dt className="muted">{term}</dt>
      <dd className="break-words">{children}</dd>
    </>
  );
}
