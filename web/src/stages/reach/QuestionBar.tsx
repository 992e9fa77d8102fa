import { Download } from "lucide-react";
import { useState } from "react";
import { useProof } from "../../api/proof";
import { Segmented } from "../../parts/Segmented";
import type { StageProps } from "../../shell/parts";

import { ExposureDialog } from "./ExposureDialog";
import { ProofDialog } from "./ProofDialog";
import { csvOf } from "./model";

const FAMILIES: ["both" | "IPv4" | "IPv6", 4 | 6 | null][] = [
  ["both", null],
  ["IPv4", 4],
  ["IPv6", 6],
];
const QUICK = ["https", "ping", "dns", "ssh"];

/** What is asked of every pair: a service, a family, transit segments or not. */
export function QuestionBar({ design, place, go, problem, scheduled }: StageProps & { problem: string | null; scheduled: boolean }) {
  const { question } = place;
  const [asking, setAsking] = useState(false);
  const [proving, setProving] = useState(false);
  const proof = useProof(design);
  const wrong = proof.data?.stale ? 0 : (proof.data?.proof?.differ.length ?? 0);
  const [text, setText] = useState(question.service ?? "");
  const ask = (service: string) => {
    setText(service);
    go({ question: { ...question, service: service.trim() || null } });
  };
  return (
    <header className="flex flex-wrap items-center gap-x-3 gap-y-1 px-4 pt-3 pb-2">
      <h1 className="text-lg font-semibold">Reach</h1>
      <form
        className="flex items-center gap-1"
        onSubmit={(e) => {
          e.preventDefault();
          ask(text);
        }}
      >
        <label className="muted" htmlFor="service">
          of
        </label>
        <input
          id="service"
          className={`bg-base-100 h-7 w-36 rounded border px-2 font-mono text-[12px] ${problem ? "border-error" : "hair"}`}
          placeholder="any service"
          value={text}
          onChange={(e) => setText(e.target.value)}
          onBlur={() => ask(text)}
        />
        {QUICK.map((s) => (
          <button
            key={s}
            type="button"
            aria-pressed={question.service === s}
            className={`hair h-7 cursor-pointer rounded border px-2 ${question.service === s ? "bg-neutral text-neutral-content" : "hover:bg-base-200"}`}
            onClick={() => ask(question.service === s ? "" : s)}
          >
            {s}
          </button>
        ))}
      </form>
      <Segmented
        label="Address family"
        options={FAMILIES.map(([word]) => [word, word])}
        chosen={FAMILIES.find(([, family]) => family === question.family)?.[0] ?? "both"}
        onChoose={(word) => go({ question: { ...question, family: FAMILIES.find(([w]) => w === word)?.[1] ?? null } })}
      />
      <label className="flex cursor-pointer items-center gap-1.5">
        <input type="checkbox" className="checkbox checkbox-sm" checked={place.transits} onChange={(e) => go({ transits: e.target.checked })} />
        transit
      </label>
      {(scheduled || question.asOf !== null) && <AsOf value={question.asOf} onChange={(asOf) => go({ question: { ...question, asOf } })} />}
      <span className="ml-auto flex items-center gap-2">
        <button type="button" className="btn btn-outline btn-xs" onClick={() => setAsking(true)}>
          Exposure
        </button>
        <button type="button" className={`btn btn-xs ${wrong > 0 ? "btn-error" : "btn-outline"}`} onClick={() => setProving(true)}>
          {wrong > 0 ? `Packets differ: ${wrong}` : "Proof"}
        </button>
        <a className="btn btn-ghost btn-xs" href={csvOf(design, place)} download="reach.csv" title="Every pair with its verdict and exact flows">
          <Download size={13} aria-hidden="true" /> CSV
        </a>
        <a className="btn btn-ghost btn-xs" href={csvOf(design, place, "svg")} download="reach.svg" title="The matrix as a picture">
          SVG
        </a>
      </span>
      {(asking || place.look !== "") && (
        <ExposureDialog
          design={design}
          go={go}
          start={place.look}
          onClose={() => {
            setAsking(false);
            if (place.look !== "") go({ look: "" });
          }}
        />
      )}
      {proving && <ProofDialog design={design} place={place} go={go} onClose={() => setProving(false)} />}
      {problem && (
        <p role="alert" className="text-error basis-full">
          {problem}
        </p>
      )}
    </header>
  );
}

/** When it is asked about, where rules have hours: at some time, at any time, or at one. */
function AsOf({ value, onChange }: { value: string | null; onChange: (asOf: string | null) => void }) {
  const kind = value === null ? "some" : value === "always" ? "always" : "then";
  return (
    <span className="flex items-center gap-1.5" data-testid="as-of">
      <select
        className="select select-xs h-7 w-auto"
        aria-label="When"
        value={kind}
        onChange={(e) => onChange(e.target.value === "some" ? null : e.target.value === "always" ? "always" : localNow())}
      >
        <option value="some">at some time</option>
        <option value="always">at any time</option>
        <option value="then">at…</option>
      </select>
      {kind === "then" && (
        <input
          type="datetime-local"
          aria-label="Date and time"
          className="hair bg-base-100 h-7 rounded border px-2 font-mono text-[12px]"
          value={value ?? ""}
          onChange={(e) => e.target.value && onChange(e.target.value)}
        />
      )}
    </span>
  );
}

/** The time on the clock of whoever looks, to the minute. */
function localNow(): string {
  const now = new Date();
  return new Date(now.getTime() - now.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);
}
