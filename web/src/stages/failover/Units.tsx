import { Plug, Unplug } from "lucide-react";
import type { StageProps } from "../../shell/parts";
import { dead, facts, type Pair, type PortRow, turn } from "./model";

type Props = StageProps & { pair: Pair; active: string[]; now: string | null; onNow: (unit: string | null) => void };
/** The two units side by side: what each is, who is active, and every port with a switch to pull it. */
export function Units({ pair, active, now, onNow, place, go, select }: Props) {
  const pull = (part: string) => go({ failed: turn(place.failed, part) });
  return (
    <section aria-label={`Pair ${pair.name}`} className="pt-2">
      <div className="grid grid-cols-[minmax(0,1fr)_9rem_minmax(0,1fr)] gap-x-3">
        {[0, 1].map((side) => {
          const unit = pair.units[side];
          if (!unit) return null;
          const failed = place.failed.includes(unit.name);
          const on = active.includes(unit.name);
          return (
            <article
              key={unit.name}
              data-unit={unit.name}
              data-state={failed ? "failed" : on ? "active" : "standby"}
              className={`row-start-1 rounded border-2 px-3 py-2 ${side === 0 ? "col-start-1" : "col-start-3"} ${failed ? "border-error" : on ? "border-primary" : "hair border-dashed"}`}
            >
              <header className="flex items-center gap-2">
                <button type="button" className="link-quiet text-[15px] font-semibold" onClick={() => select(unit.pointer)}>
                  {unit.name}
                </button>
                <span className={failed ? "text-error font-semibold" : on ? "text-primary font-semibold" : "muted"}>
                  {failed ? "has failed" : on ? "active" : "stands by"}
                </span>
                <button type="button" className="btn btn-outline btn-xs ml-auto" onClick={() => pull(unit.name)}>
                  {failed ? <Plug size={13} aria-hidden="true" /> : <Unplug size={13} aria-hidden="true" />}
                  {failed ? `Start ${unit.name}` : `Pull ${unit.name}`}
                </button>
              </header>
              <dl className="mt-1 flex flex-wrap gap-x-4 text-[12px]">
                {facts(unit).map(([words, value]) => (
                  <div key={words} className={pair.unlike.includes(words) ? "text-error font-semibold" : ""}>
                    <dt className="muted inline">{words.replaceAll("_", " ")} </dt>
                    <dd className="inline font-mono">{value}</dd>
                  </div>
                ))}
              </dl>
              <label className="mt-1 flex cursor-pointer items-center gap-1.5 text-[12px]">
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs"
                  checked={now === unit.name}
                  onChange={() => onNow(now === unit.name ? null : unit.name)}
                />
                was the active one before
              </label>
            </article>
          );
        })}
        <div className="muted col-start-2 row-start-1 self-center text-center text-[12px] leading-snug">
          {pair.mode === "shared" ? "share the gateways" : "one active"}
          <br />
          {pair.heartbeats} {pair.heartbeats === 1 ? "heartbeat" : "heartbeats"}
          <br />
          missed after {pair.misses} x {pair.hello_ms} ms
          <br />
          {pair.preempt ? "the higher priority comes back" : "who is active stays"}
          <br />
          sessions {pair.sync_sessions ? "synced" : "not synced"}
        </div>
      </div>
      <table className="mt-2 w-full border-separate border-spacing-0 text-[12px]" aria-label="Ports of the pair">
        <thead>
          <tr className="muted text-left">
            <th className="hair border-b pr-2 text-right font-normal">{pair.units[0]?.name} leads to</th>
            <td className="hair w-10 border-b" />
            <th className="hair w-40 border-b text-center font-normal">port</th>
            <td className="hair w-10 border-b" />
            <th className="hair border-b pl-2 font-normal">{pair.units[1]?.name} leads to</th>
          </tr>
        </thead>
        <tbody>
          {pair.ports
            .filter((p) => p.mode !== "off")
            .map((p) => (
              <Row key={p.port} row={p} pair={pair} failed={place.failed} pull={pull} select={select} />
            ))}
        </tbody>
      </table>
    </section>
  );
}

function Row({ row, pair, failed, pull, select }: { row: PortRow; pair: Pair; failed: string[]; pull: (part: string) => void; select: (p: string) => void }) {
  const side = (k: number) => {
    const unit = pair.units[k]?.name ?? "";
    const down = dead(failed, unit, row, k);
    return {
      far: (
        <span className={`font-mono ${down ? "text-error line-through" : row.far[k] ? "" : "muted"} ${row.alike ? "" : "font-semibold"}`}>
          {row.far[k] ?? "no cable"}
        </span>
      ),
      button: row.far[k] && (
        <button
          type="button"
          aria-pressed={down}
          aria-label={`${down ? "Restore" : "Pull"} ${unit}:${row.port}`}
          title={`${down ? "Restore" : "Pull"} ${unit}:${row.port}`}
          disabled={failed.includes(unit)}
          className={`flex size-5 cursor-pointer items-center justify-center rounded border ${down ? "border-error text-error" : "hair hover:bg-base-200"}`}
          onClick={() => pull(failed.includes(row.cables[k] ?? "") ? (row.cables[k] ?? "") : `${unit}:${row.port}`)}
        >
          {down ? <Unplug size={12} aria-hidden="true" /> : <Plug size={12} aria-hidden="true" />}
        </button>
      ),
    };
  };
  const [left, right] = [side(0), side(1)];
  return (
    <tr>
      <td className="hair border-b py-0.5 pr-2 text-right">{left.far}</td>
      <td className="hair border-b">{left.button}</td>
      <td className="hair border-b text-center whitespace-nowrap">
        <button type="button" className="link-quiet font-mono" onClick={() => select(row.pointer)}>
          {row.port}
        </button>
        {row.bundle && <span className="muted"> in {row.bundle}</span>}
        <span className={row.heartbeat ? "text-accent" : row.watched ? "text-primary" : "muted"}>
          {" "}
          {row.heartbeat ? "heartbeat" : row.watched ? "watched" : "not watched"}
        </span>
        {!row.alike && <span className="text-error font-semibold"> cabled unlike</span>}
      </td>
      <td className="hair border-b">{right.button}</td>
      <td className="hair border-b pl-2">{right.far}</td>
    </tr>
  );
}
