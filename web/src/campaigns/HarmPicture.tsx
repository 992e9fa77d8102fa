import { useState } from "react";
import type { Matters } from "../api/campaigns";
import { HARMS, most } from "./model";

const FIRST = 6;
const TONES = ["bg-error", "bg-accent", "bg-secondary", "bg-secondary/50"];

/** A line a part, or a kind of mistake: a bar for each harm it does alone, drawn against the most that any does. */
export function HarmPicture({ title, words, all }: { title: string; words: string; all: Matters[] }) {
  const [every, setEvery] = useState(false);
  const harmful = all.filter((m) => m.alone.some((n) => n > 0) || m.beyond > 0);
  const shown = every ? harmful : harmful.slice(0, FIRST);
  const top = most(harmful);
  const designs = new Set(all.map((m) => m.design)).size > 1;
  const beyond = harmful.some((m) => m.beyond > 0);
  if (all.length === 0) return null;
  return (
    <section className="mt-5" aria-label={title}>
      <h3 className="eyebrow">{title}</h3>
      <p className="muted text-[12px]">
        {words}; {harmful.length} of {all.length} do any harm.
      </p>
      {harmful.length > 0 && (
        <table className="bg-base-100 mt-1 w-full table-fixed border-separate border-spacing-0 rounded-md text-[12px]">
          <thead>
            <tr className="muted text-left">
              <th className="hair w-[34%] border-b px-2 py-1 font-normal">{title.split(" ")[0]}</th>
              {HARMS.map((h) => (
                <th key={h} className="hair border-b px-2 py-1 font-normal">
                  {h}
                </th>
              ))}
              {beyond && (
                <th className="hair w-[13%] border-b px-2 py-1 font-normal" title="Pairs of things that do more harm together than both alone">
                  worse with another
                </th>
              )}
            </tr>
          </thead>
          <tbody>
            {shown.map((m) => (
              <tr key={`${m.design} ${m.name}`} data-matters={m.name}>
                <td className="truncate px-2 py-0.5" title={`${[m.name, m.design].filter(Boolean).join(", ")}: harm in ${m.harmful} of ${m.cases} cases`}>
                  {m.meaning ? m.meaning : <span className="font-mono">{m.name}</span>}
                  {designs && <span className="muted"> {m.design}</span>}
                </td>
                {HARMS.map((h, k) => (
                  <td key={h} className="px-2 py-0.5">
                    <Bar value={m.alone[k] ?? 0} most={top[k] ?? 0} tone={TONES[k] ?? ""} />
                  </td>
                ))}
                {beyond && <td className="px-2 py-0.5 text-right font-mono">{m.beyond || ""}</td>}
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {harmful.length > FIRST && (
        <button type="button" className="link-quiet mt-1 text-[12px]" onClick={() => setEvery(!every)}>
          {every ? "Show the first six" : `Show all ${harmful.length}`}
        </button>
      )}
    </section>
  );
}

function Bar({ value, most: top, tone }: { value: number; most: number; tone: string }) {
  if (value === 0) return null;
  return (
    <span className="flex items-center gap-1.5">
      <span className={`h-2.5 rounded-sm ${tone}`} style={{ width: `${Math.max(3, (value / top) * 75)}%` }} aria-hidden="true" />
      <span className="font-mono">{value}</span>
    </span>
  );
}
