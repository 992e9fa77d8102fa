import type { BuildStep, Outage, Seen } from "../../api/sheets";
import { lasts, timeline } from "../../floor/sheet";
import { when } from "./model";

interface Props {
  steps: (BuildStep & { id?: string })[];
  marks?: Record<string, Seen>;
  /** Tick a step; left out = it is a sheet to look at. */
  onTick?: (id: string, done: boolean) => void;
  onNote?: (id: string, note: string) => void;
}

/** The steps in order, each with what to look at, who loses reach, and how to go back. */
export function Steps({ steps, marks = {}, onTick, onNote }: Props) {
  return (
    <ol className="@container text-[12px]" aria-label="Steps">
      {steps.map((s) => {
        const mark = s.id ? marks[s.id] : undefined;
        const done = mark?.value === "done";
        return (
          <li
            key={s.step}
            id={`step-${s.step}`}
            data-step={s.step}
            className={`hair grid grid-cols-[3.2rem_minmax(0,1fr)] gap-x-3 @lg:grid-cols-[3.2rem_minmax(0,5fr)_minmax(0,4fr)] border-t py-1.5 break-inside-avoid ${done ? "opacity-60" : ""}`}
          >
            <span className="flex items-start justify-end gap-1.5 pt-px tabular-nums">
              {onTick && s.id && (
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs"
                  aria-label={`Step ${s.step} is done`}
                  checked={done}
                  onChange={(e) => onTick(s.id ?? "", e.target.checked)}
                />
              )}
              {s.step}
            </span>
            <div className="min-w-0">
              <p className="font-semibold">{s.title}</p>
              <ul>
                {s.lines.map((l, k) => (
                  <li key={k} className="break-words">
                    {l}
                  </li>
                ))}
              </ul>
              {mark?.who && (
                <p className="muted">
                  {mark.who}, {when(mark.at)}
                </p>
              )}
              {onNote && s.id && (
                <input
                  className="hair mt-1 w-full border-b bg-transparent outline-none"
                  aria-label={`Note at step ${s.step}`}
                  placeholder="note"
                  defaultValue={mark?.note ?? ""}
                  onBlur={(e) => e.target.value !== (mark?.note ?? "") && onNote(s.id ?? "", e.target.value)}
                />
              )}
            </div>
            <div className="col-start-2 min-w-0 @lg:col-start-3">
              {s.cuts.length > 0 && (
                <p className="text-error font-semibold">
                  Cuts you off from {s.cuts.join(", ")}: {s.way_back}.
                </p>
              )}
              {s.console && (
                <p className="font-medium" title="The operator does not reach it by any address here.">
                  Stand at the box.
                </p>
              )}
              {s.reach_lost.length > 0 && <Pairs words="lose reach for a while" pairs={s.reach_lost} tone="text-error" />}
              {s.opened_meanwhile.length > 0 && <Pairs words="are open for a while only" pairs={s.opened_meanwhile} tone="text-warning" />}
              {s.regained.length > 0 && <Pairs words="have it back" pairs={s.regained} tone="text-success" />}
              {s.broken.length > 0 && <p className="text-error">Meanwhile broken: {s.broken.join(", ")}</p>}
              {s.check && (
                <p>
                  <span className="muted">Check:</span> {s.check}
                  {s.see && <span className="muted">; {s.see}</span>}
                </p>
              )}
              {s.wait_s > 0 && (
                <p>
                  <span className="muted">Wait up to {lasts(s.wait_s)}:</span> {s.wait}
                </p>
              )}
              <p className="muted">Back: {s.undo}</p>
            </div>
          </li>
        );
      })}
    </ol>
  );
}

function Pairs({ words, pairs, tone }: { words: string; pairs: { from: string; to: string }[]; tone: string }) {
  return (
    <details>
      <summary className={`cursor-pointer ${tone}`}>
        {pairs.length} {pairs.length === 1 ? "pair" : "pairs"} {words}
      </summary>
      <ul>
        {pairs.slice(0, 40).map((p) => (
          <li key={`${p.from}>${p.to}`}>
            {p.from} → {p.to}
          </li>
        ))}
        {pairs.length > 40 && <li>and {pairs.length - 40} more</li>}
      </ul>
    </details>
  );
}

const WIDTH = 1000;
const HEIGHT = 34;

/** The change on a line of time: how long each step takes, and how many pairs are cut off during it. */
export function Timeline({ steps, outages }: { steps: BuildStep[]; outages: Outage[] }) {
  const beats = timeline(steps, outages);
  const last = beats[beats.length - 1];
  const whole = Math.max(last ? last.start + last.seconds : 0, 1);
  const most = Math.max(...beats.map((b) => b.cut), 1);
  return (
    <figure className="mt-1.5" aria-label="The change on a line of time">
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="block h-9 w-full" preserveAspectRatio="none" role="img" aria-label="Pairs cut off, step by step">
        {beats.map((b) => {
          const x = (b.start / whole) * WIDTH;
          const w = Math.max((b.seconds / whole) * WIDTH - 1.5, 1);
          const h = b.cut > 0 ? 6 + (b.cut / most) * (HEIGHT - 6) : 3;
          return (
            <a key={b.step} href={`#step-${b.step}`}>
              <rect x={x} y={HEIGHT - h} width={w} height={h} className={b.cut > 0 ? "fill-error" : "fill-neutral opacity-35"}>
                <title>{`step ${b.step}, ${lasts(b.seconds)}${b.cut > 0 ? `: ${b.cut} pairs cut off` : ""}${b.broken > 0 ? `, ${b.broken} expectations broken` : ""}`}</title>
              </rect>
            </a>
          );
        })}
      </svg>
      <figcaption className="muted flex justify-between text-[11px]">
        <span>0</span>
        <span>{outages.length > 0 ? `at most ${most} pairs cut off at once` : "time"}</span>
        <span>{lasts(whole)}</span>
      </figcaption>
    </figure>
  );
}
