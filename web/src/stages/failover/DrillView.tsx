import { Printer } from "lucide-react";
import { useState } from "react";
import { useDrill } from "../../api/queries";
import { Working } from "../../parts/Empty";
import type { StageProps } from "../../shell/parts";
import { expected, kept, type Pair } from "./model";

/** The sheet for a real drill: printed or on screen, with room to tick and to say what was seen, kept with the design. */
export function DrillView({ design, pair, change }: StageProps & { pair: Pair }) {
  const sheet = useDrill(design, pair.name);
  const [seen, setSeen] = useState<Record<string, string>>({});
  const [who, setWho] = useState("");
  const [day, setDay] = useState(() => new Date().toISOString().slice(0, 10));
  if (!sheet.data) return <Working />;
  const steps = sheet.data.steps;
  const some = steps.some((s) => seen[s.name]);
  return (
    <section aria-label={`Drill of ${pair.name}`} className="printed max-w-4xl pt-2">
      <header className="flex items-baseline gap-3">
        <h2 className="text-[15px] font-semibold">Failover drill of {pair.name}</h2>
        <span className="muted">{pair.drills === 0 ? "none recorded yet" : `${pair.drills} recorded`}</span>
        <button type="button" className="btn btn-ghost btn-xs no-print ml-auto" onClick={() => window.print()}>
          <Printer size={13} aria-hidden="true" /> Print
        </button>
      </header>
      <ul className="mt-1">
        {sheet.data.before.map((line) => (
          <li key={line} className="flex gap-2 py-0.5">
            <input type="checkbox" className="checkbox checkbox-xs mt-0.5" aria-label={line} />
            {line}
          </li>
        ))}
      </ul>
      <ol className="mt-2">
        {steps.map((s, k) => (
          <li key={s.name} data-step={s.name} className="hair grid grid-cols-[1.500rem_minmax(0,1fr)_minmax(0,15rem)] gap-x-3 border-t py-1.5">
            <span className="muted text-right font-mono">{k + 1}</span>
            <div>
              <p className="font-medium">{s.do}</p>
              <p className="muted leading-snug">
                Expect: <span className="text-base-content">{expected(s)}</span>. Measure: {s.measure}.
                {s.lost.length > 0 && <span className="text-error"> Lost: {s.lost.join(", ")}.</span>}
              </p>
            </div>
            <label className="flex flex-col text-[12px]">
              <span className="muted">seen</span>
              <input
                className="hair bg-base-100 h-6 w-full border-b px-1"
                aria-label={`Seen at ${s.name}`}
                value={seen[s.name] ?? ""}
                onChange={(e) => setSeen({ ...seen, [s.name]: e.target.value })}
              />
            </label>
          </li>
        ))}
      </ol>
      <form
        className="no-print mt-2 flex flex-wrap items-center gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          change.mutate({ kind: "patch", patch: kept(pair, day, who, steps, seen, pair.drills === 0) });
          setSeen({});
        }}
      >
        <input
          type="date"
          aria-label="Day of the drill"
          className="hair bg-base-100 h-7 rounded border px-2"
          value={day}
          onChange={(e) => setDay(e.target.value)}
        />
        <input aria-label="Who" placeholder="who" className="hair bg-base-100 h-7 rounded border px-2" value={who} onChange={(e) => setWho(e.target.value)} />
        <button type="submit" className="btn btn-primary btn-xs" disabled={!some}>
          Keep what was seen
        </button>
        <span className="muted">beside what was expected, in the design</span>
      </form>
    </section>
  );
}
