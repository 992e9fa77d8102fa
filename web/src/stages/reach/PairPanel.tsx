import { ArrowLeftRight } from "lucide-react";
import { useState } from "react";
import { useKeepPreview, usePair } from "../../api/queries";
import type { StageProps } from "../../shell/parts";
import type { Pair } from "./model";
import { Proposals } from "./Proposals";

/** The chosen pair in words: the verdict, what stops the rest, and the exact set of flows that pass. */
export function PairPanel({ design, place, go, select, change, shownPair }: StageProps & { shownPair: { from: string; to: string } | null }) {
  const pair = usePair(design, shownPair, place.question, place.passing);
  if (!shownPair)
    return (
      <section className="muted min-w-0 flex-1 self-center p-6 text-center">
        <p>Choose a cell: its exact flows stand here, and the way of one packet below.</p>
      </section>
    );
  if (pair.isError)
    return (
      <section className="min-w-0 flex-1 p-6">
        <p role="alert">{pair.error.message}</p>
        <p className="muted">An edit may have renamed, split or joined it; choose another cell.</p>
      </section>
    );
  if (!pair.data) return null;
  const p = pair.data;
  return (
    <section className="flex min-w-52 flex-1 basis-52 flex-col gap-2 pt-1" aria-label="The pair">
      <header className="flex items-center gap-2">
        <h2 className="min-w-0 text-[15px] leading-snug font-semibold [overflow-wrap:anywhere]">
          {p.source} → {p.target}
        </h2>
        <button
          type="button"
          className="btn btn-ghost btn-xs"
          title="The other direction (r)"
          onClick={() => go({ pair: { from: p.target, to: p.source }, passing: false, packet: null })}
        >
          <ArrowLeftRight size={14} aria-hidden="true" /> turn
        </button>
      </header>
      <VerdictWords pair={p} select={select} />
      <KeepAsItIs key={`${p.source} ${p.target}`} design={design} source={p.source} target={p.target} change={change} />
      {p.there && p.firewalls.length === 0 && p.verdict !== "none" && (
        <p className="border-accent border-l-[3px] pl-2" data-testid="no-firewall">
          This traffic never meets a firewall: no rule decides about it.
        </p>
      )}
      {p.deciding.length > 0 && (
        <p data-testid="deciding" className="leading-snug">
          <span className="muted">Decided by </span>
          {p.deciding.map((d, k) => (
            <span key={d.pointer}>
              {k > 0 && ", "}
              <button
                type="button"
                className={`link-quiet ${d.action === "permit" ? "text-primary" : "text-secondary"}`}
                title={`${d.device}: ${d.action}`}
                onClick={() => select(d.pointer)}
              >
                {d.name}
              </button>
            </span>
          ))}
          <span className="muted">; no other rule matters here.</span>
        </p>
      )}
      <Proposals key={`wish ${p.source} ${p.target}`} design={design} change={change} source={p.source} target={p.target} asked={place.question.service} />
      <h3 className="eyebrow mt-1">Passes, and its reply comes back</h3>
      {p.flows.length === 0 ? (
        <p className="muted">Nothing{place.question.service ? ` of ${place.question.service}` : ""}.</p>
      ) : (
        <ul className="flex min-h-0 flex-col overflow-y-auto" style={{ maxHeight: "12.500rem" }}>
          {p.flows.map((f) => (
            <li key={JSON.stringify(f)} className="hair border-t py-1 font-mono text-[12px] leading-snug break-words">
              {f["sources"]} → {f["destinations"]}
              <span className="text-primary block">{f["services"]}</span>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

/** Expect what holds now: later edits that change it say so. */
function KeepAsItIs({ design, source, target, change }: Pick<StageProps, "design" | "change"> & { source: string; target: string }) {
  const [asked, setAsked] = useState(false);
  const preview = useKeepPreview(design, asked ? { source, target } : null);
  const names =
    preview.data?.patch.flatMap((op) => (Array.isArray(op["value"]) ? op["value"] : [op["value"]])).map((v) => String((v as { name?: string })?.name ?? "")) ??
    [];
  if (!asked)
    return (
      <button type="button" className="link-quiet self-start" onClick={() => setAsked(true)}>
        Keep it as it is
      </button>
    );
  if (!preview.data) return <p className="muted">working it out…</p>;
  if (names.length === 0) return <p className="muted">It is expected already, or no whole service passes for every host.</p>;
  return (
    <p className="bg-base-200 flex items-center gap-2 rounded px-2 py-1">
      <span className="min-w-0 flex-1">Expect: {names.join("; ")}</span>
      <button
        type="button"
        className="btn btn-primary btn-xs"
        onClick={() => {
          change.mutate({ kind: "patch", patch: preview.data.patch });
          setAsked(false);
        }}
      >
        Expect it
      </button>
    </p>
  );
}

function VerdictWords({ pair, select }: { pair: Pair; select: (p: string) => void }) {
  const place = pair.decided_by[0];
  const lead = pair.verdict === "all" ? "Everything passes." : pair.verdict === "some" ? "Some flows pass." : "Nothing passes.";
  return (
    <p data-testid="verdict">
      <strong className={pair.verdict === "none" ? "" : "text-primary"}>{lead}</strong>{" "}
      {pair.verdict !== "all" && (
        <>
          {pair.verdict === "some" ? "The rest stops" : "It stops"} at layer <strong data-testid="layer">{pair.layer}</strong>:{" "}
          {place !== undefined ? (
            <button type="button" className="link-quiet text-left" onClick={() => select(place)}>
              {pair.reason}
            </button>
          ) : (
            pair.reason
          )}
        </>
      )}
    </p>
  );
}
