import { Check, CloudOff, Triangle } from "lucide-react";
import { useEffect, useState } from "react";
import type { BuildStep, Seen, SheetView, TestLine } from "../api/sheets";
import { Empty } from "../parts/Empty";
import { byPlace, choicesOf, lasts, standing, type Standing } from "./sheet";
import { useQueue } from "./useQueue";

/** One sheet for the hand: walked from place to place, answered with a thumb, with or without a network. */
export function FloorPage({ design, number }: { design: string; number: number }) {
  const { sheet, waiting, state, refused, say } = useQueue(design, number);
  const [left, setLeft] = useState(false);
  useEffect(() => {
    if ("serviceWorker" in navigator && import.meta.env.PROD) void navigator.serviceWorker.register("/floor.js", { scope: "/" }).catch(() => undefined);
  }, []);
  if (!sheet)
    return state === "asking" ? (
      <Empty title="Opening the sheet…" hint="" />
    ) : (
      <Empty title={state === "gone" ? "There is no such sheet" : "This sheet is not kept here"} hint={WORDS[state]}>
        <a className="btn btn-primary" href="/">
          To the workbench
        </a>
      </Empty>
    );
  const marks: Record<string, Seen> = { ...sheet.marks, ...Object.fromEntries(waiting.map((w) => [w.line, w])) };
  const done = sheet.lines.filter((l) => marks[l.id]?.value).length;
  return (
    <main className="mx-auto flex min-h-dvh max-w-[34rem] flex-col" data-testid="floor">
      <header className="bg-base-100 hair sticky top-0 z-10 border-b px-3 py-2">
        <div className="flex items-baseline gap-2">
          <h1 className="min-w-0 flex-1 truncate text-base font-semibold">{sheet.about.name}</h1>
          <span className="text-[13px] tabular-nums" data-testid="done">
            {done} of {sheet.lines.length}
          </span>
        </div>
        <progress className="progress progress-primary block h-1 w-full" value={done} max={Math.max(sheet.lines.length, 1)} />
        <p className="mt-1 flex items-center gap-2 text-[12px]" role="status">
          {sheet.kind === "test" ? "Test" : "Build"} sheet {sheet.number}
          {state === "away" && (
            <span className="text-warning-content bg-warning flex items-center gap-1 rounded px-1.5">
              <CloudOff size={12} aria-hidden="true" /> no network{waiting.length > 0 && `, ${waiting.length} kept here`}
            </span>
          )}
          {state === "signed-out" && (
            <a className="link-quiet" href="/">
              sign in to send {waiting.length > 0 ? `${waiting.length} answers` : "answers"}
            </a>
          )}
          {state === "here" && waiting.length === 0 && done > 0 && <span className="muted">all sent</span>}
          <label className="ml-auto flex items-center gap-1.5">
            <input type="checkbox" className="checkbox checkbox-xs" checked={left} onChange={(e) => setLeft(e.target.checked)} /> what is left
          </label>
        </p>
        {refused && (
          <p role="alert" className="text-error text-[13px]">
            {refused}
          </p>
        )}
      </header>
      {sheet.kind === "test" ? <Tests sheet={sheet} marks={marks} left={left} say={say} /> : <Steps sheet={sheet} marks={marks} left={left} say={say} />}
    </main>
  );
}

const WORDS = {
  asking: "",
  here: "",
  away: "Open it once where there is a network; from then on it works without.",
  "signed-out": "Sign in first; then open the sheet again.",
  gone: "It may be of another design.",
} as const;

interface Part {
  sheet: SheetView;
  marks: Record<string, Seen>;
  left: boolean;
  say: (line: string, value: string, note?: string) => void;
}

function Tests({ sheet, marks, left, say }: Part) {
  const lines = sheet.lines.filter((l) => !left || !marks[l.id]?.value);
  return (
    <>
      {byPlace<TestLine>(lines).map(({ place, lines: mine }) => (
        <section key={place} aria-label={place}>
          <h2 className="bg-base-200 px-3 py-1.5 text-[13px] font-semibold">
            {mine[0]?.do === "look" ? "Look at" : "Stand at"} <span className="font-mono">{place}</span>
          </h2>
          <ul>
            {mine.map((line) => (
              <Test key={line.id} line={line} mark={marks[line.id]} standing={standing(line, marks[line.id], wrongNow(sheet, marks, line))} say={say} />
            ))}
          </ul>
        </section>
      ))}
    </>
  );
}

/** Lines that are known to be otherwise; of one that was not sent yet, by what was typed. */
function wrongNow(sheet: SheetView, marks: Record<string, Seen>, line: TestLine): string[] {
  const mine = marks[line.id];
  if (mine?.value === sheet.marks[line.id]?.value) return sheet.wrong;
  const plain = line.do !== "lease" || mine?.value === "none";
  return plain && mine?.value !== line.expect ? [line.id] : [];
}

const SIGN: Record<Standing, string> = { open: "", right: "text-success", wrong: "text-error" };

export function StandingSign({ of }: { of: Standing }) {
  if (of === "open") return <span className="hair inline-block h-3.5 w-3.5 rounded-full border" title="not made yet" />;
  return of === "right" ? (
    <Check size={16} className={SIGN.right} aria-label="as expected" />
  ) : (
    <Triangle size={14} className={SIGN.wrong} fill="currentColor" aria-label="otherwise" />
  );
}

function Test({ line, mark, standing: how, say }: { line: TestLine; mark: Seen | undefined; standing: Standing; say: Part["say"] }) {
  const [typed, setTyped] = useState("");
  return (
    <li className="hair border-b px-3 py-2.5" data-test={line.id}>
      <div className="flex items-start gap-2">
        <span className="pt-0.5">
          <StandingSign of={how} />
        </span>
        <p className="min-w-0 flex-1 text-[14px] break-words">{sentence(line.how)}</p>
        <span className="muted font-mono text-[11px]">{line.id}</span>
      </div>
      <p className="muted mt-0.5 ml-6 text-[12px] break-words">
        Expect: <span className="text-base-content">{line.to_see}</span>
        {line.state && <>; {line.state}</>}
      </p>
      <div className="mt-2 ml-6 flex flex-wrap gap-2">
        {line.do === "lease" && (
          <form
            className="flex min-w-0 flex-1 gap-2"
            onSubmit={(e) => {
              e.preventDefault();
              if (typed.trim()) say(line.id, typed.trim());
            }}
          >
            <input
              className="input h-10 min-w-0 flex-1 font-mono text-[14px]"
              inputMode="decimal"
              aria-label={`Address seen at ${line.stand}`}
              placeholder="address you got"
              value={typed || (mark?.value !== "none" ? (mark?.value ?? "") : "")}
              onChange={(e) => setTyped(e.target.value)}
            />
            <button type="submit" className="btn h-10">
              keep
            </button>
          </form>
        )}
        {choicesOf(line).map(({ value, words }) => (
          <button
            key={value}
            type="button"
            className={`btn h-10 min-w-[5.5rem] ${mark?.value === value ? "btn-primary" : "btn-outline"}`}
            aria-pressed={mark?.value === value}
            onClick={() => say(line.id, mark?.value === value ? "" : value)}
          >
            {words}
          </button>
        ))}
      </div>
    </li>
  );
}

function Steps({ sheet, marks, left, say }: Part) {
  return (
    <ol>
      {sheet.lines
        .filter((l) => !left || !marks[l.id]?.value)
        .map((step) => (
          <Step key={step.id} step={step} mark={marks[step.id]} say={say} />
        ))}
    </ol>
  );
}

function Step({ step, mark, say }: { step: BuildStep & { id: string }; mark: Seen | undefined; say: Part["say"] }) {
  const done = mark?.value === "done";
  return (
    <li className={`hair border-b px-3 py-2.5 ${done ? "opacity-60" : ""}`} data-step={step.id}>
      <label className="flex items-start gap-2.5">
        <input
          type="checkbox"
          className="checkbox mt-0.5"
          checked={done}
          aria-label={`Step ${step.step} is done`}
          onChange={(e) => say(step.id, e.target.checked ? "done" : "", mark?.note ?? "")}
        />
        <span className="min-w-0 flex-1">
          <strong className="text-[14px] font-semibold">
            {step.step}. {step.title}
          </strong>
          {step.lines.map((l, k) => (
            <span key={k} className="block text-[13px] break-words">
              {l}
            </span>
          ))}
        </span>
      </label>
      <div className="ml-8 text-[12px]">
        {step.cuts.length > 0 && (
          <p className="text-error font-semibold">
            Cuts you off from {step.cuts.join(", ")}: {step.way_back}
          </p>
        )}
        {step.console && <p className="font-medium">Stand at the box.</p>}
        {step.reach_lost.length > 0 && <p className="text-error">{step.reach_lost.length} pairs lose reach for a while.</p>}
        {step.check && (
          <p className="muted">
            Check: {step.check}
            {step.see && `; ${step.see}`}
          </p>
        )}
        {step.wait_s > 0 && (
          <p className="muted">
            Wait up to {lasts(step.wait_s)}: {step.wait}
          </p>
        )}
        <p className="muted">Back: {step.undo}</p>
      </div>
    </li>
  );
}

function sentence(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}
