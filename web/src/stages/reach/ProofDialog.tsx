import { useState } from "react";
import { type Packet, type Proof, useProof, useProve } from "../../api/proof";
import { Dialog } from "../../parts/Dialog";
import type { StageProps } from "../../shell/parts";
import { when } from "../history/model";

/** Real packets through the design, built of network namespaces of the server's machine, beside what was computed. */
export function ProofDialog({ design, place, go, onClose }: Pick<StageProps, "design" | "place" | "go"> & { onClose: () => void }) {
  const found = useProof(design);
  const prove = useProve(design);
  const view = found.data;
  const running = view?.state === "running" || prove.isPending;
  const pair = place.pair;
  const begin = (pairs: [string, string][]) => prove.mutate({ pairs, failed: place.failed });
  return (
    <Dialog label="Proof" onClose={onClose} wide>
      <h2 className="text-base font-semibold">Proof by packets</h2>
      <p className="muted mt-1 text-[12px]">
        The draft is built of network namespaces of the server&rsquo;s machine, and packets are sent through it. Nothing leaves that machine.
      </p>
      <div className="mt-2 flex flex-wrap items-center gap-2">
        <button type="button" className="btn btn-primary btn-sm" disabled={running} onClick={() => begin([])}>
          Prove the whole design
        </button>
        {pair && (
          <button type="button" className="btn btn-outline btn-sm" disabled={running} onClick={() => begin([[pair.from, pair.to]])}>
            Only {pair.from} → {pair.to}
          </button>
        )}
        {place.failed.length > 0 && <span className="text-error text-[12px]">with {place.failed.join(", ")} down</span>}
        {running && (
          <span role="status" className="muted flex items-center gap-2 text-[12px]">
            <span className="loading loading-spinner loading-xs" /> packets are on their way
          </span>
        )}
      </div>
      {(prove.isError || view?.state === "failed") && (
        <p role="alert" className="text-error mt-3">
          {prove.error?.message ?? view?.why}
        </p>
      )}
      {view?.proof && !running && (
        <Told
          proof={view.proof}
          stale={view.stale}
          of={`Of draft ${view.version}, ${when(view.at)}.`}
          onPick={(from, to) => {
            go({ pair: { from, to }, packet: null });
            onClose();
          }}
        />
      )}
    </Dialog>
  );
}

function Told({ proof, stale, of, onPick }: { proof: Proof; stale: boolean; of: string; onPick: (from: string, to: string) => void }) {
  const [every, setEvery] = useState(false);
  const shown = every ? proof.results : proof.differ;
  return (
    <section className="mt-3" data-testid="proof">
      <p className="text-[12px]">
        {of} {stale && <span className="text-accent font-medium">The draft has changed since.</span>}
      </p>
      <p className={`font-semibold ${proof.differ.length > 0 ? "text-error" : "text-success"}`}>{proof.said}</p>
      <dl className="mt-1 text-[12px]">
        <Line words="met" said={proof.covered} />
        <Line words="taken as computed, so not proved" said={proof.taken} />
        <Line words="left out" said={proof.left_out} />
      </dl>
      <button type="button" className="link-quiet mt-1 text-[12px]" onClick={() => setEvery(!every)}>
        {every ? "Show what differs" : `Show all ${proof.results.length} packets`}
      </button>
      {shown.length > 0 && <Packets packets={shown} onPick={onPick} />}
    </section>
  );
}

function Line({ words, said }: { words: string; said: string[] }) {
  if (said.length === 0) return null;
  return (
    <div>
      <dt className="muted inline">{words}: </dt>
      <dd className="inline">{said.join("; ")}</dd>
    </div>
  );
}

function Packets({ packets, onPick }: { packets: Packet[]; onPick: (from: string, to: string) => void }) {
  return (
    <div className="mt-2 max-h-72 overflow-y-auto">
      <table className="w-full table-fixed text-left text-[12px]">
        <thead className="muted bg-base-100 sticky top-0">
          <tr>
            <th className="w-[24%] py-1 font-medium">pair</th>
            <th className="w-[17%] py-1 font-medium">to</th>
            <th className="w-[11%] py-1 font-medium">service</th>
            <th className="py-1 font-medium">computed</th>
            <th className="w-[11%] py-1 font-medium">seen</th>
          </tr>
        </thead>
        <tbody>
          {packets.map((p, k) => (
            <tr key={k} className={`hair border-t align-top ${p.differs ? "text-error font-semibold" : ""}`}>
              <td className="py-0.5 pr-2 break-words">
                <button type="button" className="link-quiet text-left" onClick={() => onPick(p.from, p.to)}>
                  {p.from} → {p.to}
                </button>
              </td>
              <td className="py-0.5 pr-2 font-mono break-all">{p.target}</td>
              <td className="py-0.5 pr-2 font-mono">{p.service}</td>
              <td className="py-0.5 pr-2 break-words">{p.why}</td>
              <td className="py-0.5">{p.seen === "answered" ? "an answer" : p.seen}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
