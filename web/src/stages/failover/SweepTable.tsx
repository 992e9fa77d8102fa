import { useState } from "react";
import { useMe } from "../../api/people";
import { useSweep } from "../../api/queries";
import { duration, type Swept } from "./model";

const SHOWN = 200;

/** Every failure of the site, worst first, alike ones folded; any row can be put on stage. */
export function SweepTable({ design, onStage }: { design: string; onStage: (failed: string[]) => void }) {
  const [harmless, setHarmless] = useState(false);
  const { sweep, begin, stop, refused } = useSweep(design);
  const me = useMe();
  const found = sweep?.failures ?? [];
  const harm = (s: Swept) => s.event.moments.at(-1)?.lost.length ?? 0;
  const rows = found.filter((s) => harmless || harm(s) > 0 || s.event.detect_ms !== null);
  const singles = found.filter((s) => s.single_point).length;
  return (
    <section aria-label="Every failure" className="pt-2">
      <div className="flex flex-wrap items-center gap-3">
        <button type="button" className="btn btn-primary btn-xs" onClick={() => begin(1)}>
          Try every single failure
        </button>
        <button type="button" className="btn btn-outline btn-xs" onClick={() => begin(2)}>
          Every two at once
        </button>
        {sweep?.state === "running" && (
          <>
            <progress className="progress progress-primary w-40" value={sweep.done} max={Math.max(sweep.total, 1)} />
            <span className="muted" role="status">
              {sweep.done} of {sweep.total || "?"}
            </span>
            {sweep.by === me.data?.name ? (
              <button type="button" className="btn btn-ghost btn-xs" onClick={stop}>
                Stop
              </button>
            ) : (
              <span className="muted">begun by {sweep.by}</span>
            )}
          </>
        )}
        {refused && (
          <span role="alert" className="text-error">
            {refused}
          </span>
        )}
        {sweep?.state === "failed" && (
          <span role="alert" className="text-error">
            The sweep broke off. Begin it again.
          </span>
        )}
        {sweep && sweep.state !== "running" && sweep.state !== "failed" && (
          <span data-testid="swept" role="status">
            {sweep.state === "stopped" ? `Stopped after ${sweep.done} of ${sweep.total}. ` : `${sweep.total} failures tried. `}
            <strong>{singles}</strong> single points of failure.
          </span>
        )}
        <label className="ml-auto flex cursor-pointer items-center gap-1.5">
          <input type="checkbox" className="checkbox checkbox-xs" checked={harmless} onChange={(e) => setHarmless(e.target.checked)} />
          also what does no harm
        </label>
      </div>
      {found.length > 0 && (
        <table className="mt-2 w-full border-separate border-spacing-0 text-[12px]" aria-label="Failures by harm">
          <thead>
            <tr className="muted text-left">
              {["what fails", "active then", "noticed", "sessions", "pairs lost", "expectations broken", ""].map((h) => (
                <th key={h} className="hair border-b pr-3 font-normal">
                  {h}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.slice(0, SHOWN).map((s) => (
              <tr key={s.failed.join(" ")} data-failed={s.failed.join(" ")} className="hover:bg-base-200 align-top">
                <td className="hair border-b py-1 pr-3">
                  <span className="font-mono">{s.failed.join(" + ")}</span>
                  {s.single_point && <span className="text-error font-semibold"> single point</span>}
                  {s.alike.length > 0 && (
                    <span className="muted" title={s.alike.map((a) => a.join(" + ")).join("\n")}>
                      {" "}
                      and {s.alike.length} alike
                    </span>
                  )}
                </td>
                <td className="hair border-b pr-3">{[...new Set(s.event.standings.flatMap((x) => x.election.active))].join(", ") || "nobody"}</td>
                <td className="hair border-b pr-3">{s.event.detect_ms === null ? "" : duration(s.event.detect_ms)}</td>
                <td className="hair border-b pr-3">{s.event.sessions === "unaffected" ? "" : s.event.sessions}</td>
                <td className="hair border-b pr-3 text-right font-mono">{harm(s) || ""}</td>
                <td className="hair text-error border-b pr-3">{s.event.moments.at(-1)?.broken.join("; ")}</td>
                <td className="hair border-b text-right">
                  <button type="button" className="link-quiet whitespace-nowrap" onClick={() => onStage(s.failed)}>
                    on stage
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {rows.length > SHOWN && <p className="muted pt-1">{rows.length - SHOWN} more, less harmful; `anabasis failover --sweep` prints all.</p>}
    </section>
  );
}
