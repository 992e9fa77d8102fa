import { ArrowLeft, Download, Pause, Play, Plus, Trash2 } from "lucide-react";
import { type ReactNode, useState } from "react";
import { Link, useLocation } from "wouter";
import { type CampaignHead, type CampaignView, useCampaign, useCampaignChange, useCampaigns, useStaged } from "../api/campaigns";
import { when } from "../stages/history/model";
import { BeginDialog } from "./BeginDialog";
import { HarmPicture } from "./HarmPicture";
import { askedWords, caseWords, HARMS, harmOf, leftWords, stageAddress } from "./model";

/** What many failures and mistakes would do to designs: begun, watched, the worst first, each case put on stage. */
export function CampaignsPage({ number }: { number: number | null }) {
  const campaigns = useCampaigns();
  const [, navigate] = useLocation();
  const [asked, setAsked] = useState(false);
  const list = campaigns.data ?? [];
  const chosen = number ?? list[0]?.id ?? null;
  return (
    <div className="bg-base-200 text-base-content flex h-full flex-col">
      <header className="hair bg-base-100 flex h-11 shrink-0 items-center gap-3 border-b px-5">
        <Link href="/" className="flex items-center gap-2" aria-label="To all designs">
          <ArrowLeft size={15} aria-hidden="true" />
          <img src="/mark.svg" alt="" className="size-6" />
          <span className="font-semibold tracking-tight">Anabasis</span>
        </Link>
        <h1 className="font-semibold">Campaigns</h1>
        <p className="muted hidden lg:block">What failures and mistakes would do, judged by harm.</p>
        <span className="flex-1" />
        <button type="button" className="btn btn-primary btn-sm" onClick={() => setAsked(true)}>
          <Plus size={14} aria-hidden="true" /> New campaign
        </button>
      </header>
      <div className="grid min-h-0 flex-1 grid-cols-[17rem_minmax(0,1fr)]">
        <nav aria-label="Campaigns" className="hair bg-base-100 overflow-y-auto border-r py-2">
          {campaigns.data && list.length === 0 && <p className="muted px-4 py-3">None yet. Begin one, and it goes on while you work.</p>}
          {list.map((c) => (
            <Link
              key={c.id}
              href={`/campaigns/${c.id}`}
              aria-current={c.id === chosen ? "page" : undefined}
              className={`block border-l-[3px] px-4 py-2 ${c.id === chosen ? "bg-base-200 border-l-primary" : "hover:bg-base-200 border-l-transparent"}`}
            >
              <span className="block truncate font-medium">{c.about.map((s) => s.name).join("; ")}</span>
              <span className="muted block text-[12px]">{askedWords(c.failures, c.faults, c.together)}</span>
              <span className="muted block text-[12px]">
                {c.state === "running" ? leftWords(c.left_s) || "begins…" : c.state === "ended" ? when(c.at) : c.state} · {c.done} of {c.total}
              </span>
            </Link>
          ))}
        </nav>
        <main className="overflow-y-auto px-5 py-4">{chosen !== null && <Campaign key={chosen} number={chosen} />}</main>
      </div>
      {asked && (
        <BeginDialog
          onClose={() => setAsked(false)}
          onBegun={(id) => {
            setAsked(false);
            navigate(`/campaigns/${id}`);
          }}
        />
      )}
    </div>
  );
}

function Campaign({ number }: { number: number }) {
  const found = useCampaign(number);
  if (found.isError)
    return (
      <p role="alert" className="text-error">
        {found.error.message}
      </p>
    );
  if (!found.data) return null;
  const { head } = found.data;
  return (
    <>
      <Head head={head} />
      <dl className="mt-3 flex flex-wrap gap-x-8 gap-y-2">
        <Fact words="cases judged" value={found.data.judged} />
        <Fact words="do harm" value={found.data.harmful} />
        <Fact words="open what must stay closed" value={found.data.opening} bad />
        {head.failures > 0 && <Fact words="single points of failure" value={found.data.harm.single_points} bad />}
      </dl>
      {head.failures > 0 && <HarmPicture title="Parts that matter" words="What each does when it fails alone" all={found.data.harm.parts} />}
      {head.faults > 0 && <HarmPicture title="Mistakes that matter" words="The worst that each kind does alone" all={found.data.harm.mistakes} />}
      <Worst view={found.data} />
    </>
  );
}

function Fact({ words, value, bad = false }: { words: string; value: number; bad?: boolean }) {
  return (
    <div>
      <dd className={`text-xl font-semibold tabular-nums ${bad && value > 0 ? "text-error" : ""}`}>{value.toLocaleString("en")}</dd>
      <dt className="muted text-[12px]">{words}</dt>
    </div>
  );
}

function Head({ head }: { head: CampaignHead }) {
  const change = useCampaignChange();
  const [, navigate] = useLocation();
  const going = head.state === "running";
  return (
    <header>
      <div className="flex flex-wrap items-baseline gap-x-4">
        <h2 className="text-lg font-semibold">{head.about.map((s) => s.name).join("; ")}</h2>
        <p className="muted">
          {askedWords(head.failures, head.faults, head.together)} · begun by {head.who}, {when(head.at)}
        </p>
      </div>
      <div className="mt-2 flex flex-wrap items-center gap-3">
        <progress className="progress progress-primary w-64" value={head.done} max={Math.max(head.total, 1)} aria-label="How far it is" />
        <span role="status">
          {head.done.toLocaleString("en")} of {head.total.toLocaleString("en")}
          {going ? (head.left_s === null ? ", beginning…" : `, ${leftWords(head.left_s)}`) : head.state === "ended" ? ", ended" : `, ${head.state}`}
        </span>
        {going ? (
          <Act icon={<Pause size={13} />} words="Stop" onDo={() => change.mutate({ kind: "stop", number: head.id })} />
        ) : (
          head.done < head.total && <Act icon={<Play size={13} />} words="Go on" onDo={() => change.mutate({ kind: "go-on", number: head.id })} />
        )}
        <a className="btn btn-ghost btn-xs" href={`/api/campaigns/${head.id}/rows.csv`} download>
          <Download size={13} aria-hidden="true" /> All rows as CSV
        </a>
        <Act
          icon={<Trash2 size={13} />}
          words="Remove"
          onDo={() => change.mutate({ kind: "remove", number: head.id }, { onSuccess: () => navigate("/campaigns") })}
        />
      </div>
      {(head.why || change.isError) && (
        <p role="alert" className="text-error">
          {change.error?.message ?? head.why}
        </p>
      )}
    </header>
  );
}

function Act({ icon, words, onDo }: { icon: ReactNode; words: string; onDo: () => void }) {
  return (
    <button type="button" className="btn btn-ghost btn-xs" onClick={onDo}>
      {icon} {words}
    </button>
  );
}

function Worst({ view }: { view: CampaignView }) {
  const staged = useStaged();
  const [, navigate] = useLocation();
  const several = view.head.about.length > 1;
  if (view.worst.length === 0) return <p className="muted mt-5">{view.judged === 0 ? "No case is judged yet." : "Nothing of what was tried does any harm."}</p>;
  return (
    <section className="mt-5" aria-label="The worst first">
      <h3 className="eyebrow">The worst first</h3>
      {staged.isError && (
        <p role="alert" className="text-error">
          {staged.error.message}
        </p>
      )}
      <table className="bg-base-100 mt-1 w-full border-separate border-spacing-0 rounded-md text-[12px]">
        <thead>
          <tr className="muted text-left">
            {[...(several ? ["design"] : []), "what happens", ...HARMS, ""].map((h) => (
              <th key={h} className="hair border-b px-2 py-1 font-normal">
                {h}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {view.worst.map((row) => (
            <tr key={row.key} data-case={row.key} className="hover:bg-base-200 align-top">
              {several && <td className="hair border-b px-2 py-1">{row.design}</td>}
              <td className="hair max-w-[24rem] border-b px-2 py-1">
                {caseWords(row.failed, row.mistakes)}
                {row.split_brain && <span className="text-error font-semibold"> both units active</span>}
              </td>
              <td className="hair text-error border-b px-2 py-1 font-medium">{row.opened.join("; ")}</td>
              <td className="hair border-b px-2 py-1">{row.closed.join("; ")}</td>
              {harmOf(row)
                .slice(2)
                .map((n, k) => (
                  <td key={HARMS[k + 2]} className="hair border-b px-2 py-1 text-right font-mono">
                    {n || ""}
                  </td>
                ))}
              <td className="hair border-b px-2 py-1 text-right whitespace-nowrap">
                <button
                  type="button"
                  className="link-quiet"
                  disabled={staged.isPending}
                  onClick={() => staged.mutate({ number: view.head.id, key: row.key }, { onSuccess: (stage) => navigate(stageAddress(stage)) })}
                >
                  on stage
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {view.harmful > view.worst.length && <p className="muted pt-1">{view.harmful - view.worst.length} more do less harm; the CSV has them all.</p>}
    </section>
  );
}
