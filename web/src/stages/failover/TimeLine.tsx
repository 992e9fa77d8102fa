import { cost, duration, type Event, layOut } from "./model";

const WIDTH = 760;
const WORDS: Record<string, string> = { fault: "fault", "taken over": "noticed and taken over", settled: "as it is" };

/** One event along time: what flows from the fault to the take-over, and who is active then. */
export function TimeLine({ event, failed, onRestore }: { event: Event; failed: string[]; onRestore: (part: string) => void }) {
  const marks = layOut(event.moments, WIDTH);
  const split = event.standings.some((s) => s.election.split_brain);
  return (
    <section aria-label="The event" className="hair border-b pb-2">
      <p className="flex flex-wrap items-baseline gap-x-3">
        {failed.length === 0 ? (
          <span className="muted">Nothing has failed. Pull a unit, a port or a cable below.</span>
        ) : (
          <>
            <span className="muted">failed:</span>
            {failed.map((part) => (
              <button key={part} type="button" title="Restore it" className="link-quiet font-mono text-[12px]" onClick={() => onRestore(part)}>
                {part} <span aria-hidden="true">×</span>
              </button>
            ))}
          </>
        )}
      </p>
      <p data-testid="why" className={split ? "text-error font-semibold" : "font-medium"}>
        {event.why}.{split && " Hosts meet the one or the other by chance, sessions break, and ports that bridge make a loop."}
      </p>
      <svg viewBox={`0 0 ${WIDTH} 74`} className="mt-1 block w-full max-w-[920px]" role="img" aria-label="Time line">
        {marks.map(({ x, width, moment }, k) => {
          const ill = moment.lost.length > 0;
          return (
            <g key={`${moment.what} ${moment.at_ms}`} data-moment={moment.what} data-lost={moment.lost.length}>
              <rect
                x={x}
                y={26}
                width={Math.max(width - 2, 2)}
                height={20}
                rx={2}
                className={ill ? (moment.broken.length ? "fill-error/75" : "fill-error/35") : "fill-primary"}
              />
              {ill && <path d={`M${x + 6} 31l10 10m0-10l-10 10`} className="stroke-base-100" strokeWidth="2" />}
              <path d={`M${x + 0.5} 14v36`} className="stroke-base-content" strokeWidth="1" />
              <text x={x + 4} y={20} className="fill-base-content text-[11px] font-semibold">
                {WORDS[moment.what] ?? moment.what}
                <tspan className="font-normal"> {failed.length ? (k === 0 ? "0" : duration(moment.at_ms)) : ""}</tspan>
              </text>
              <text x={x + 4} y={62} className="fill-base-content text-[11px]">
                {cost(moment)}
              </text>
            </g>
          );
        })}
      </svg>
      {failed.length > 0 && (
        <p className="flex flex-wrap gap-x-5">
          <span>
            noticed: <strong data-testid="detect">{event.detect_ms === null ? "nobody has to" : duration(event.detect_ms)}</strong>
          </span>
          <span>
            sessions: <strong data-testid="sessions">{event.sessions}</strong>
          </span>
        </p>
      )}
      <Losses event={event} />
    </section>
  );
}

function Losses({ event }: { event: Event }) {
  const last = event.moments.at(-1);
  if (!last || last.lost.length === 0) return null;
  return (
    <p className="max-h-20 overflow-y-auto leading-snug" data-testid="lost">
      {last.broken.length > 0 && (
        <strong className="text-error">
          breaks: {last.broken.join("; ")}
          <br />
        </strong>
      )}
      <span className="muted">lost for good: </span>
      {last.lost.map((l) => `${l.source} to ${l.target}${l.whole ? "" : " (in part)"}`).join(", ")}
    </p>
  );
}
