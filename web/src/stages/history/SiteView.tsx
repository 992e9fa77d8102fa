import { Radar } from "lucide-react";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useAsking, useDecide, useSince, useSurvey, useSurveys, useTakeOver, useWeighed, type SiteDifference } from "../../api/surveys";
import { Dialog } from "../../parts/Dialog";
import { Empty, Working } from "../../parts/Empty";
import { JobDialog } from "../../parts/JobDialog";
import type { StageProps } from "../../shell/parts";
import { when } from "./model";
import { byBox, targetsOf, weight } from "./site";

/** The design held against what the site says of itself: every difference, what it means for reach, and which side is right. */
export function SiteView({ design, place, go, change }: StageProps) {
  const surveys = useSurveys(design);
  const { going, begin, stop } = useAsking(design);
  const [open, setOpen] = useState<"ask" | null>(null);
  const given = Number(place.one ?? 0);
  const number = surveys.data?.some((s) => s.number === given) ? given : (surveys.data?.[0]?.number ?? null);
  const since = place.two ? Number(place.two) : null;
  if (!surveys.data) return <Working />;
  const ask = (
    <button type="button" className="btn btn-primary btn-sm" onClick={() => setOpen("ask")} disabled={going?.state === "running"}>
      <Radar size={14} aria-hidden="true" /> Ask the site…
    </button>
  );
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[11.5rem_minmax(0,1fr)] gap-4 px-4 pb-3">
      <section className="flex min-h-0 flex-col" aria-label="Surveys">
        <div className="mb-2">{ask}</div>
        {going?.state === "running" && (
          <div className="hair border-t py-2" role="status">
            <progress className="progress progress-primary w-full" value={going.answers.length} max={Math.max(going.asked, 1)} />
            <p className="flex justify-between text-[12px]">
              <span>
                {going.answers.length} of {going.asked} asked
              </span>
              <button type="button" className="link-quiet" onClick={() => stop.mutate()}>
                stop
              </button>
            </p>
          </div>
        )}
        {going?.state === "failed" && (
          <p role="alert" className="text-error text-[12px]">
            The survey broke off. Begin it again.
          </p>
        )}
        <ol className="min-h-0 flex-1 overflow-y-auto" aria-label="Surveys of the site">
          {surveys.data.map((s) => (
            <li key={s.number} className={`hair border-t py-1.5 pl-1 ${s.number === number ? "bg-base-200" : ""}`}>
              <button
                type="button"
                className="w-full cursor-pointer text-left"
                aria-current={s.number === number}
                onClick={() => go({ one: String(s.number), two: null })}
              >
                <strong className="font-semibold">Survey {s.number}</strong> <span className="muted text-[12px]">{when(s.at)}</span>
                <span className="block text-[12px]">
                  {s.answered} of {s.asked} boxes answered
                </span>
                <span className="muted block text-[12px]">by {s.who}</span>
              </button>
              {s.number !== number && (
                <button type="button" className="link-quiet text-[12px]" onClick={() => go({ one: String(number), two: String(s.number) })}>
                  what changed since
                </button>
              )}
            </li>
          ))}
        </ol>
      </section>
      {number === null ? (
        <Empty
          title="Nobody has asked the site yet"
          hint="Name the boxes: they are asked by RESTCONF and SNMP what they are, and whatever is otherwise than designed stands here. Nothing is written to them, nobody else is asked, and no password is kept."
        />
      ) : since !== null ? (
        <SinceThen design={design} number={number} other={since} onBack={() => go({ two: null })} />
      ) : (
        <Differences design={design} number={number} change={change} />
      )}
      {open === "ask" && (
        <AskDialog
          onClose={() => setOpen(null)}
          refused={begin.error?.problem.errors?.[0]?.sentence ?? begin.error?.message ?? null}
          onAsk={(body) => begin.mutate(body, { onSuccess: () => (setOpen(null), go({ one: null, two: null })) })}
        />
      )}
    </div>
  );
}

const HOW = { otherwise: "≠", "design-only": "−", "site-only": "+", down: "↓", stub: "?" } as const;
const HOW_WORDS = {
  otherwise: "both have it, with another value",
  "design-only": "the design alone has it",
  "site-only": "the site alone has it",
  down: "down, and up by the design",
  stub: "a box that its neighbours speak of, and nobody asked",
} as const;

function Differences({ design, number, change }: { design: string; number: number; change: StageProps["change"] }) {
  const found = useSurvey(design, number);
  const weighed = useWeighed(design, found.data ? number : null); // what differs is shown first
  const decide = useDecide(design, number);
  const [chosen, setChosen] = useState<string[]>([]);
  const [open, setOpen] = useState(false);
  if (found.isError) return <p className="text-error">{found.error.message}</p>;
  if (!found.data) return <Working />;
  const { differences, answers } = found.data;
  const silent = answers.filter((a) => a.why !== null);
  const weights = new Map(weighed.data?.map((w) => [w.key, w]));
  const there = new Set(differences.map((d) => d.key));
  const marked = chosen.filter((k) => there.has(k));
  const writable = differences.filter((d) => d.writable && marked.includes(d.key)).map((d) => d.key);
  const turn = (keys: string[], on: boolean) => setChosen(on ? [...new Set([...marked, ...keys])] : marked.filter((k) => !keys.includes(k)));
  return (
    <section className="flex min-h-0 flex-col" aria-label="What differs">
      <div className="mb-2 flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <h2 className="font-semibold" data-testid="site-count">
          {differences.length === 0
            ? "The site is as the design has it"
            : `${differences.length} ${differences.length === 1 ? "thing is" : "things are"} otherwise on the site`}
        </h2>
        <span className="muted text-[12px]">
          seen {when(found.data.at)} by {found.data.who}
        </span>
        <span className="ml-auto flex gap-2">
          <button
            type="button"
            className="btn btn-outline btn-xs"
            disabled={marked.length === 0}
            onClick={() => decide.mutate({ keys: marked, right: true }, { onSuccess: () => setChosen([]) })}
          >
            The design is right
          </button>
          <button type="button" className="btn btn-primary btn-xs" disabled={writable.length === 0} onClick={() => setOpen(true)}>
            The site is right…
          </button>
        </span>
      </div>
      {silent.length > 0 && (
        <details className="border-warning mb-2 border-l-2 pl-3 text-[12px]">
          <summary className="cursor-pointer">
            {silent.length} of {answers.length} boxes {silent.length === 1 ? "is" : "are"} not known
          </summary>
          <ul>
            {silent.map((a) => (
              <li key={a.target}>
                <span className="font-mono">{a.target}</span>: {a.why}
              </li>
            ))}
          </ul>
        </details>
      )}
      <div className="min-h-0 flex-1 overflow-y-auto">
        {differences.length > 0 && (
          <table className="w-full table-fixed text-left text-[12px]" aria-label="Differences">
            <thead className="muted">
              <tr>
                <th className="w-7 py-1">
                  <input
                    type="checkbox"
                    className="checkbox checkbox-xs"
                    aria-label="All of them"
                    checked={marked.length === differences.length}
                    onChange={(e) => turn([...there], e.target.checked)}
                  />
                </th>
                <th className="w-[29%] py-1 font-medium">what</th>
                <th className="py-1 font-medium">in the design</th>
                <th className="py-1 font-medium">on the site</th>
                <th className="w-32 py-1 font-medium" title="what reach would be if the design said what the site says">
                  taken over, reach
                </th>
              </tr>
            </thead>
            {byBox(differences).map(({ box, rows }) => (
              <tbody key={box} aria-label={box || "The site as a whole"}>
                <tr className="bg-base-200">
                  <td className="py-1">
                    <input
                      type="checkbox"
                      className="checkbox checkbox-xs"
                      aria-label={`All of ${box || "the site as a whole"}`}
                      checked={rows.every((r) => marked.includes(r.key))}
                      onChange={(e) =>
                        turn(
                          rows.map((r) => r.key),
                          e.target.checked,
                        )
                      }
                    />
                  </td>
                  <th colSpan={4} scope="rowgroup" className="py-1 font-semibold">
                    {box || "The site as a whole"} <span className="muted font-normal">{rows.length}</span>
                  </th>
                </tr>
                {rows.map((r) => (
                  <Row
                    key={r.key}
                    row={r}
                    weight={weight(weights.get(r.key))}
                    marked={marked.includes(r.key)}
                    onMark={(on) => turn([r.key], on)}
                    onUndecide={() => decide.mutate({ keys: [r.key], right: false })}
                  />
                ))}
              </tbody>
            ))}
          </table>
        )}
      </div>
      {open && <TakeOverDialog design={design} number={number} chosen={writable} change={change} onClose={() => setOpen(false)} />}
    </section>
  );
}

function Row({
  row,
  weight: said,
  marked,
  onMark,
  onUndecide,
}: {
  row: SiteDifference;
  weight: string | undefined;
  marked: boolean;
  onMark: (on: boolean) => void;
  onUndecide: () => void;
}) {
  return (
    <tr className={`hair border-t align-top ${row.decided ? "opacity-60" : ""}`} data-key={row.key}>
      <td className="py-1">
        <input type="checkbox" className="checkbox checkbox-xs" aria-label={row.sentence} checked={marked} onChange={(e) => onMark(e.target.checked)} />
      </td>
      <td className="py-1 pr-3 break-words">
        <span className="text-accent mr-1 inline-block w-3 font-mono font-semibold" title={HOW_WORDS[row.what]}>
          {HOW[row.what]}
        </span>
        {row.place}
        {row.decided && (
          <span className="block">
            the design is right, says {row.decided}; to be put right on the site{" "}
            <button type="button" className="link-quiet" onClick={onUndecide}>
              take back
            </button>
          </span>
        )}
      </td>
      <Value said={row.design} />
      <Value said={row.site} />
      <td className="py-1">{row.writable ? (said ?? <span className="muted">…</span>) : <span className="muted">look at the site</span>}</td>
    </tr>
  );
}

/** A value of one side; a setting that is left to its usual value stands back. */
function Value({ said }: { said: string }) {
  return <td className={`py-1 pr-3 break-words ${said === "not said" ? "muted" : "font-mono"}`}>{said}</td>;
}

function TakeOverDialog({
  design,
  number,
  chosen,
  change,
  onClose,
}: {
  design: string;
  number: number;
  chosen: string[];
  change: StageProps["change"];
  onClose: () => void;
}) {
  const preview = useTakeOver(design, number, chosen);
  const title = `The design takes ${chosen.length} ${chosen.length === 1 ? "thing" : "things"} over`;
  return (
    <JobDialog title={title} verb="Make the design say so" change={change} preview={preview} hint="" wide onClose={onClose}>
      {null}
    </JobDialog>
  );
}

/** What a survey found otherwise than an earlier one did. */
function SinceThen({ design, number, other, onBack }: { design: string; number: number; other: number; onBack: () => void }) {
  const found = useSince(design, number, other);
  if (!found.data) return found.isError ? <p className="text-error">{found.error.message}</p> : <Working />;
  return (
    <section className="flex min-h-0 flex-col" aria-label="What changed">
      <div className="mb-2 flex items-baseline gap-4">
        <h2 className="font-semibold">
          Survey {other} → survey {number}: {found.data.length === 0 ? "nothing changed on the site" : `${found.data.length} changed`}
        </h2>
        <button type="button" className="link-quiet ml-auto text-[12px]" onClick={onBack}>
          back to the design
        </button>
      </div>
      <ul className="min-h-0 flex-1 overflow-y-auto text-[12px]">
        {found.data.map((d) => (
          <li key={d.key} className="hair grid grid-cols-[2fr_1fr_1fr] gap-3 border-t py-1">
            <span>
              {d.device && <strong className="font-medium">{d.device}</strong>} {d.place}
            </span>
            <span className="font-mono break-words">{d.design}</span>
            <span className="font-mono break-words">{d.site}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

const NONE: Omit<Schemas["Ask"], "targets"> = { community: "public", snmp_user: "", snmp_secret: "", snmp_privacy: "", user: "", password: "" };

function AskDialog({ onAsk, onClose, refused }: { onAsk: (body: Schemas["Ask"]) => void; onClose: () => void; refused: string | null }) {
  const [typed, setTyped] = useState("");
  const [held, setHeld] = useState(NONE);
  const targets = targetsOf(typed);
  const field = (key: keyof typeof NONE, label: string, secret: boolean) => (
    <label className="flex flex-col gap-0.5 text-[12px]">
      {label}
      <input
        className="input input-sm w-full"
        type={secret ? "password" : "text"}
        autoComplete="off"
        value={held[key] ?? ""}
        onChange={(e) => setHeld({ ...held, [key]: e.target.value })}
      />
    </label>
  );
  return (
    <Dialog label="Ask the site" onClose={onClose} wide>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (targets.length > 0) onAsk({ ...held, targets });
        }}
      >
        <h2 className="text-lg font-semibold">Ask the site</h2>
        <label className="flex flex-col gap-0.5 text-[12px]">
          Boxes: a name or an address each, with a port where it is not the usual one
          <textarea
            className="hair bg-base-100 h-24 rounded border p-2 font-mono text-[12px]"
            aria-label="Boxes"
            placeholder={"10.64.99.2\n10.64.99.3\n127.0.0.1:21000-21017"}
            value={typed}
            onChange={(e) => setTyped(e.target.value)}
          />
        </label>
        <fieldset className="grid grid-cols-3 gap-3">
          {field("community", "SNMP v2c community", true)}
          {field("user", "RESTCONF user", false)}
          {field("password", "RESTCONF password", true)}
          {field("snmp_user", "SNMP v3 user", false)}
          {field("snmp_secret", "SNMP v3 secret", true)}
          {field("snmp_privacy", "SNMP v3 privacy", true)}
        </fieldset>
        <p className="muted text-[12px]">
          Each is asked by both protocols, reading only; nobody else is. What you type here is sent to them, and kept nowhere.
        </p>
        {refused && (
          <p role="alert" className="text-error">
            {refused}
          </p>
        )}
        <button type="submit" className="btn btn-primary btn-sm self-end" disabled={targets.length === 0}>
          {targets.length > 1 ? `Ask ${targets.length} boxes` : "Ask"}
        </button>
      </form>
    </Dialog>
  );
}
