import type { Schemas } from "../../api/client";
import { Empty, Working } from "../../parts/Empty";
import type { StageProps } from "../../shell/parts";
import { byPlace, type Comparison, type Difference, inShort, SIGNS } from "./model";

interface Props extends StageProps {
  title: string;
  found: Comparison | undefined;
  error: string | null;
  /** There is nothing to compare yet; defaults to false. */
  empty?: boolean;
  /** Gives a way back to the states; defaults to none. */
  onClose?: () => void;
}

const TONES: Record<Difference["sign"], string> = {
  added: "text-primary",
  removed: "text-error",
  changed: "text-accent",
  renamed: "text-accent",
  moved: "text-accent",
};

/** What leads from one state to another: expectations first, then reach, then configuration. */
export function Compared({ title, found, error, empty = false, onClose, select, go }: Props) {
  return (
    <section className="flex min-h-0 flex-col" aria-label="Comparison">
      <h2 className="flex items-baseline gap-3 text-[15px] font-semibold">
        {title}
        {onClose && (
          <button type="button" className="link-quiet text-[12px] font-normal" onClick={onClose}>
            back to the states
          </button>
        )}
      </h2>
      {error !== null && (
        <p role="alert" className="text-error">
          {error}
        </p>
      )}
      {empty && (
        <Empty
          title="Nothing is published yet"
          hint="Publish the draft with a reason; from then on every edit can be compared with it, and taken back to it."
        />
      )}
      {!empty && error === null && !found && <Working />}
      {found && (
        <>
          <p className="muted mb-2" data-testid="in-short">
            {inShort(found)}
          </p>
          <div className="min-h-0 flex-1 overflow-y-auto">
            <Told found={found} />
            <Reach found={found} onPair={(from, to) => go({ stage: "reach", pair: { from, to }, at: null })} />
            <h3 className="eyebrow mt-3 mb-1">Configuration</h3>
            {found.differences.length === 0 && <p className="muted">Written alike.</p>}
            {byPlace(found.differences).map(([place, list]) => (
              <div key={place} className="hair grid grid-cols-[6rem_minmax(0,1fr)] border-t py-1">
                <p className="font-medium">{place}</p>
                <ul>
                  {list.map((d) => (
                    <Line key={`${d.sign} ${d.before} ${d.now}`} d={d} place={place} select={select} />
                  ))}
                </ul>
              </div>
            ))}
          </div>
        </>
      )}
    </section>
  );
}

function Line({ d, place, select }: { d: Difference; place: string; select: StageProps["select"] }) {
  const title = d.title.startsWith(`${place} `) ? d.title.slice(place.length + 1) : d.title;
  return (
    <li className="grid grid-cols-[1rem_minmax(0,1fr)] gap-x-2 py-0.5" data-sign={d.sign}>
      <span className={`row-span-2 font-mono font-semibold ${TONES[d.sign]}`} title={d.sign}>
        {SIGNS[d.sign]}
      </span>
      <span className="truncate" title={`${d.kind} ${title}`}>
        <span className="muted">{d.kind}</span>{" "}
        {d.now !== null ? (
          <button type="button" className="link-quiet" onClick={() => select(d.now)}>
            {title || d.kind}
          </button>
        ) : (
          title
        )}{" "}
        <span className="muted text-[12px]">{d.sign}</span>
      </span>
      <ul className="min-w-0 font-mono text-[12px] break-words">
        {d.words.map((w) => (
          <li key={w} className={d.sign === "added" || d.sign === "removed" ? "mr-4 inline-block" : ""}>
            {w}
          </li>
        ))}
      </ul>
    </li>
  );
}

function Told({ found }: { found: Comparison }) {
  const { broken = [], mended = [] } = found.consequences;
  const lines: [string, string, string[]][] = [
    ["broken", "text-error", broken],
    ["mended", "text-primary", mended],
    ["to mend now", "text-error", found.come.filter((s) => !broken.some((name) => s.startsWith(`${name}:`)))],
    ["mended by it", "text-primary", found.gone],
  ];
  const said = lines.filter(([, , list]) => list.length > 0);
  if (said.length === 0) return null;
  return (
    <>
      <h3 className="eyebrow mb-1">Expectations and findings</h3>
      <dl className="grid grid-cols-[6rem_minmax(0,1fr)]">
        {said.map(([word, tone, list]) => (
          <div key={word} className="contents">
            <dt className={`font-semibold ${tone}`}>{word}</dt>
            <dd>
              {list.slice(0, 12).map((x) => (
                <p key={x}>{x}</p>
              ))}
              {list.length > 12 && <p className="muted">and {list.length - 12} more</p>}
            </dd>
          </div>
        ))}
      </dl>
    </>
  );
}

function Reach({ found, onPair }: { found: Comparison; onPair: (from: string, to: string) => void }) {
  const { opened, closed, changed, split, joined } = found.consequences;
  const rows = [...closed, ...opened, ...changed].filter((c) => !c.folded);
  return (
    <>
      <h3 className="eyebrow mt-3 mb-1">Reach</h3>
      {rows.length === 0 && <p className="muted">Every pair reaches what it did.</p>}
      {split.map((s) => (
        <p key={s.whole}>
          {s.whole} fell apart into {s.parts.join(", ")}.
        </p>
      ))}
      {joined.map((s) => (
        <p key={s.whole}>
          {s.parts.join(" and ")} became {s.whole}.
        </p>
      ))}
      <table className="w-full table-fixed text-left" data-testid="reach-differences">
        <tbody>
          {rows.slice(0, 80).map((c) => (
            <tr key={`${c.source} ${c.target}`} className="hair border-t align-top">
              <td className="w-52 py-1 pr-3">
                {c.now ? (
                  <button type="button" className="link-quiet text-left" onClick={() => onPair(c.now?.[0] ?? "", c.now?.[1] ?? "")}>
                    {c.source} → {c.target}
                  </button>
                ) : (
                  `${c.source} → ${c.target}`
                )}
              </td>
              <td className="py-1 font-mono text-[12px] break-words">
                <Flows sign="+" tone="text-primary" flows={c.gained} />
                <Flows sign="−" tone="text-error" flows={c.lost} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {rows.length > 80 && <p className="muted">and {rows.length - 80} more; `anabasis compare` lists all.</p>}
    </>
  );
}

function Flows({ sign, tone, flows }: { sign: string; tone: string; flows: Schemas["Change"]["gained"] }) {
  return flows.map((f) => (
    <p key={`${f["sources"]} ${f["destinations"]} ${f["services"]}`}>
      <span className={`font-semibold ${tone}`}>{sign}</span> {f["sources"]} → {f["destinations"]}: {f["services"]}
    </p>
  ));
}
