import { ListPlus } from "lucide-react";
import { memo, useId, useMemo, useState } from "react";
import { type DepthRow, useDefence } from "../../api/campaigns";
import { useBrokenBy, useExpectations, useNames } from "../../api/queries";
import { Empty, Working } from "../../parts/Empty";
import { type Measure, useLong } from "../../parts/useLong";
import type { StageProps } from "../../shell/parts";
import { added, editWords, emptyForm, type Expectation, type Form, inOrder, summary, taken } from "./model";
import { Depth, DefenceLine } from "./Defence";
import { UnaskedList } from "./UnaskedList";

/** What must be open and what must stay closed, with the present verdict and what decides it. */
export function ExpectationsStage(props: StageProps) {
  const { design, change } = props;
  const view = useExpectations(design);
  if (!view.data) return <Working />;
  const { expectations, suggestions, unasked } = view.data;
  const guarded = expectations.some((e) => e.expect !== "open");
  return (
    <div className="flex h-full flex-col">
      <header className="flex flex-wrap items-baseline gap-4 px-4 pt-3 pb-2">
        <h1 className="text-lg font-semibold">Expectations</h1>
        <p className={expectations.some((e) => !e.holds) ? "text-error font-semibold" : "muted"} data-testid="summary">
          {summary(expectations)}
        </p>
        <span className="flex-1" />
        {guarded && <DefenceLine design={design} />}
      </header>
      <div className="relative min-h-0 flex-1 overflow-y-auto px-4 pb-4" data-scrolls>
        {expectations.length === 0 && (
          <Empty
            title="Nothing is expected yet"
            hint="Say below what must be open or must stay closed, or keep a pair as it is from its panel on Reach. Every edit then says what it breaks."
          />
        )}
        <List {...props} expectations={expectations} />
        <AddForm {...props} known={expectations} />
        {suggestions.length > 0 && (
          <Suggestions suggestions={suggestions} onTake={(some) => change.mutate({ kind: "patch", patch: taken(some, expectations) })} />
        )}
        <UnaskedList {...props} unasked={unasked} known={expectations} />
      </div>
    </div>
  );
}

/** How high an expectation and a suggestion are until they are measured. */
const HEIGHT = 58;
const SUGGESTED = 29;

function List({ expectations, design, place, select, go }: StageProps & { expectations: Expectation[] }) {
  const defence = useDefence(design);
  const depths = useMemo(() => new Map((defence.data?.stale ? [] : (defence.data?.rows ?? [])).map((r) => [r.name, r])), [defence.data]);
  const ordered = useMemo(() => inOrder(expectations), [expectations]);
  const { frame, drawn, above, below, measure } = useLong<HTMLUListElement>({
    count: ordered.length,
    heightOf: () => HEIGHT,
    keyOf: (k) => ordered[k]?.pointer ?? k,
    lit: ordered.findIndex((e) => e.pointer === place.at),
  });
  return (
    <ul ref={frame} className="flex flex-col" aria-label="Expectations" style={{ paddingTop: above, paddingBottom: below }}>
      {drawn.flatMap((k) => {
        const e = ordered[k];
        return e
          ? [
              <Row
                key={e.pointer}
                expectation={e}
                at={k}
                measure={measure}
                lit={place.at === e.pointer}
                design={design}
                select={select}
                depth={e.expect === "open" ? undefined : depths.get(e.name)}
                go={go}
              />,
            ]
          : [];
      })}
    </ul>
  );
}

type Suggested = Record<string, unknown>;

function Suggestions({ suggestions, onTake }: { suggestions: Suggested[]; onTake: (some: Suggested[]) => void }) {
  const { frame, drawn, above, below, measure } = useLong<HTMLUListElement>({ count: suggestions.length, heightOf: () => SUGGESTED, lit: -1 });
  return (
    <section className="mt-5" aria-label="Suggestions">
      <header className="flex items-center gap-3">
        <h2 className="eyebrow">What purposes let one expect, and holds now</h2>
        <button type="button" className="btn btn-outline btn-xs" onClick={() => onTake(suggestions)}>
          Expect all {suggestions.length}
        </button>
      </header>
      <ul ref={frame} className="mt-1" style={{ paddingTop: above, paddingBottom: below }}>
        {drawn.flatMap((k) => {
          const s = suggestions[k];
          if (!s) return [];
          return (
            <li key={String(s["name"])} ref={measure} data-index={k} className="hair flex items-center gap-2 border-b py-1">
              <span className="min-w-0 flex-1 truncate">{String(s["name"])}</span>
              <button type="button" className="link-quiet" aria-label={`expect it: ${String(s["name"])}`} onClick={() => onTake([s])}>
                expect it
              </button>
            </li>
          );
        })}
      </ul>
    </section>
  );
}

interface RowProps {
  expectation: Expectation;
  at: number;
  measure: Measure;
  lit: boolean;
  design: string;
  select: StageProps["select"];
  go: StageProps["go"];
  /** How deep it is defended, where that is known. */
  depth: DepthRow | undefined;
}

const Row = memo(function Row({ expectation: e, at, measure, lit, design, select, depth, go }: RowProps) {
  const [asked, setAsked] = useState(false);
  const broken = useBrokenBy(design, asked ? e.name : null);
  const decides = e.decided_by.find((p) => p !== e.pointer);
  return (
    <li
      ref={measure}
      data-index={at}
      data-expectation={e.name}
      data-holds={e.holds}
      className={`hair grid grid-cols-[1.750rem_minmax(10rem,1fr)_minmax(12rem,1.600fr)] gap-x-2 border-b py-2 ${lit ? "bg-base-200" : ""}`}
    >
      <HoldsSign holds={e.holds} unknown={e.verdict === "unknown"} />
      <div className="min-w-0">
        <button type="button" className="link-quiet max-w-full truncate font-medium" onClick={() => select(e.pointer)} title={e.note ?? e.name}>
          {e.name}
        </button>
        <p className="muted text-[12px]">
          {e.source} → {e.target} <span className="font-mono">{e.services.join(", ")}</span> {e.expect}
          {e.through ? ` through ${e.through} only` : ""}
        </p>
      </div>
      <div className="min-w-0">
        <p className={e.holds ? "muted" : ""}>
          {!e.holds && (
            <strong className="text-error">
              {e.verdict === "unknown" ? "cannot be judged: " : e.expect === "open" ? `${e.verdict} of it passes: ` : "open: "}
            </strong>
          )}
          {decides !== undefined ? (
            <button type="button" className="link-quiet text-left" onClick={() => select(decides)}>
              {e.reason}
            </button>
          ) : (
            e.reason
          )}
        </p>
        {depth && e.holds && <Depth design={design} depth={depth} go={go} />}
        {!e.holds && !asked && (
          <button type="button" className="link-quiet text-[12px]" onClick={() => setAsked(true)}>
            Which edit broke it?
          </button>
        )}
        {asked && (
          <p className="text-[12px]" data-testid="broken-by">
            {broken.isPending ? "looking back…" : broken.data ? editWords(broken.data) : "No edit that is kept: it has never held."}
          </p>
        )}
      </div>
    </li>
  );
});

/** A ring closed by a stroke through it = holds, a ring with a gap = broken, an empty dashed one = nobody can tell. */
function HoldsSign({ holds, unknown }: { holds: boolean; unknown: boolean }) {
  return (
    <svg width="20" height="20" viewBox="0 0 20 20" fill="none" role="img" aria-label={holds ? "holds" : unknown ? "unknown" : "broken"} strokeLinecap="round">
      {holds && (
        <g className="stroke-primary">
          <circle cx="10" cy="10" r="6.500" strokeWidth="1.500" />
          <path d="M6 10h8" strokeWidth="2.200" />
        </g>
      )}
      {!holds && !unknown && (
        <path d="M8 3.800a6.500 6.500 0 0 0-2.500 11M12 16.200a6.500 6.500 0 0 0 2.500-11M11.500 4.500 8.500 15.500" className="stroke-error" strokeWidth="2" />
      )}
      {unknown && <circle cx="10" cy="10" r="6.500" strokeWidth="1.500" strokeDasharray="2 3" className="stroke-accent" />}
    </svg>
  );
}

function AddForm({ design, change, known }: StageProps & { known: Expectation[] }) {
  const [form, setForm] = useState<Form>(emptyForm);
  const put = (part: Partial<Form>) => setForm({ ...form, ...part });
  const names = useNames(design);
  const ends = useId();
  const patch = added(form, known);
  const places = (names.data ?? []).flatMap((l) =>
    l.kind === "VLAN"
      ? [l.title.split(" ").slice(1).join(" ")]
      : l.kind === "Outside" || l.kind === "Address set"
        ? [l.title]
        : l.kind === "Zone"
          ? [l.title.split(" ").slice(1).join(" ")]
          : [],
  );
  const firewalls = (names.data ?? []).filter((l) => l.kind === "Firewall").map((l) => l.title);
  return (
    <form
      aria-label="Expect something new"
      className="hair mt-4 flex flex-wrap items-end gap-2 rounded border p-3"
      onSubmit={(e) => {
        e.preventDefault();
        if (!patch) return;
        change.mutate({ kind: "patch", patch });
        setForm({ ...emptyForm, expect: form.expect });
      }}
    >
      <datalist id={ends}>
        {[...new Set(places)].map((p) => (
          <option key={p} value={p} />
        ))}
      </datalist>
      <Labelled label="from">
        <input className={FIELD} list={ends} value={form.from} onChange={(e) => put({ from: e.target.value })} placeholder="segment, zone, set" />
      </Labelled>
      <Labelled label="to">
        <input className={FIELD} list={ends} value={form.to} onChange={(e) => put({ to: e.target.value })} placeholder="segment, zone, set" />
      </Labelled>
      <Labelled label="services">
        <input className={`${FIELD} font-mono text-[12px]`} value={form.services} onChange={(e) => put({ services: e.target.value })} />
      </Labelled>
      <Labelled label="must">
        <select className="select select-sm h-8 w-32" value={form.expect} onChange={(e) => put({ expect: e.target.value as Form["expect"] })}>
          <option value="closed">stay closed</option>
          <option value="open">be open</option>
          <option value="only">pass only these</option>
        </select>
      </Labelled>
      {form.expect === "open" && firewalls.length > 0 && (
        <Labelled label="only through">
          <select className="select select-sm h-8 w-28" value={form.through} onChange={(e) => put({ through: e.target.value })}>
            <option value="">any way</option>
            {firewalls.map((f) => (
              <option key={f}>{f}</option>
            ))}
          </select>
        </Labelled>
      )}
      <button type="submit" className="btn btn-primary btn-sm h-8" disabled={!patch}>
        <ListPlus size={14} /> Expect it
      </button>
    </form>
  );
}

const FIELD = "hair bg-base-100 h-8 w-36 rounded border px-2";

function Labelled({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <label className="flex flex-col gap-0.5">
      <span className="muted text-[12px]">{label}</span>
      {children}
    </label>
  );
}
