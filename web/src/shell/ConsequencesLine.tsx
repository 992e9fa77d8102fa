import { Undo2 } from "lucide-react";
import type { Dispatch, ReactNode } from "react";
import type { Schemas } from "../api/client";
import { useLastEdit, type useChange } from "../api/queries";
import type { Place } from "./place";
import type { ShellAction } from "./state";
import { shown } from "./consequences";

interface Props {
  design: string;
  draft: Schemas["DraftView"] | undefined;
  change: ReturnType<typeof useChange>;
  go: (change: Partial<Place>) => void;
  open: boolean;
  /** What somebody else did last; null = nobody did anything since this page was opened. */
  latest: string | null;
  dispatch: Dispatch<ShellAction>;
  undo: () => void;
}

/** What the last edit changed in reach, each word a link, with undo. */
export function ConsequencesLine({ design, draft, change, go, open, latest, dispatch, undo }: Props) {
  const last = useLastEdit(design);
  const edited = last.data;
  const toPair = (from: string, to: string) => {
    go({ stage: "reach", pair: { from, to }, at: null });
    dispatch({ type: "overlay-closed" });
  };
  const toExpectations = () => {
    go({ stage: "expectations", at: null });
    dispatch({ type: "overlay-closed" });
  };
  const asked = (change.error?.problem.clash?.clashes.length ?? 0) > 0; // the dialog with both versions says it all
  if (change.isError && !asked)
    return (
      <Line tone="bg-error text-error-content">
        <span role="alert" className="min-w-0 flex-1 truncate" title={change.error.message}>
          <strong>{change.error.problem.title}.</strong> {change.error.problem.errors?.[0]?.sentence ?? change.error.message} Nothing was changed.
        </span>
        <button type="button" className="link-quiet" onClick={() => change.reset()}>
          Close
        </button>
      </Line>
    );
  const groups = edited ? shown(edited.consequences) : [];
  const nothing = edited !== undefined && edited.patch.length > 0 && groups.length === 0;
  return (
    <>
      {open && groups.length > 0 && <Details groups={groups} onPair={toPair} onExpectations={toExpectations} />}
      <Line tone="bg-neutral text-neutral-content">
        <span className="eyebrow !text-inherit opacity-75">Consequences</span>
        <span className="flex min-w-0 flex-1 items-center gap-3 overflow-hidden whitespace-nowrap" aria-live="polite" data-testid="consequences">
          {change.isPending && <span className="opacity-80">working it out…</span>}
          {!change.isPending && edited?.patch.length === 0 && (
            <span className="opacity-80">No edit yet. Change a cell or a rule, and this line says what that opens and closes.</span>
          )}
          {!change.isPending && nothing && <span className="opacity-80">The last edit changes nothing in reach.</span>}
          {!change.isPending &&
            groups.map((group) => (
              <button
                key={group.kind}
                type="button"
                className={`link-quiet ${group.kind === "broken" || group.kind === "cut off" ? "bg-error text-error-content rounded px-1.5 font-semibold" : ""}`}
                aria-expanded={open}
                onClick={() => dispatch({ type: "overlay-opened", overlay: "consequences" })}
              >
                {group.words}
              </button>
            ))}
          {!change.isPending && firstOf(groups) && (
            <span className="truncate opacity-80">
              first <PairName change={firstOf(groups) as Schemas["Change"]} onPair={toPair} />
            </span>
          )}
        </span>
        {latest !== null && (
          <span className="bg-secondary text-secondary-content shrink-0 rounded px-1.5" role="status" data-testid="latest">
            {latest}
          </span>
        )}
        {draft?.can_undo && (
          <button type="button" className="link-quiet flex items-center gap-1" disabled={change.isPending} onClick={undo}>
            <Undo2 size={14} aria-hidden="true" /> Undo
          </button>
        )}
      </Line>
    </>
  );
}

function firstOf(groups: ReturnType<typeof shown>): Schemas["Change"] | undefined {
  return groups.find((g) => g.changes.length > 0)?.changes[0];
}

function Line({ tone, children }: { tone: string; children: ReactNode }) {
  return <footer className={`col-span-full row-start-3 flex h-9 items-center gap-4 px-3 ${tone}`}>{children}</footer>;
}

function Details({
  groups,
  onPair,
  onExpectations,
}: {
  groups: ReturnType<typeof shown>;
  onPair: (from: string, to: string) => void;
  onExpectations: () => void;
}) {
  return (
    <section
      aria-label="Consequences in full"
      className="bg-base-100 hair fixed inset-x-0 bottom-9 z-20 max-h-[55vh] overflow-auto border-t p-4 shadow-[0_-8px_24px_rgb(0_0_0/0.12)]"
    >
      {groups.map((group) => (
        <div key={group.kind} className="mb-4">
          <h2 className="mb-1 font-semibold">{group.words}</h2>
          {group.names.map((name) => (
            <p key={name}>
              <button type="button" className="link-quiet" onClick={onExpectations}>
                {name}
              </button>
            </p>
          ))}
          <table className="w-full text-left">
            <tbody>
              {group.changes.map((c) => (
                <tr key={`${c.source} ${c.target}`} className="hair border-t align-top">
                  <td className="w-72 py-1 pr-4">
                    <PairName change={c} onPair={onPair} />
                  </td>
                  <td className="py-1">
                    <Flows sign="+" flows={c.gained} />
                    <Flows sign="−" flows={c.lost} />
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      ))}
    </section>
  );
}

/** The pair by name; a link where both its segments are still there and apart. */
function PairName({ change, onPair }: { change: Schemas["Change"]; onPair: (from: string, to: string) => void }) {
  const words = `${change.source} → ${change.target}`;
  const [from, to] = change.now ?? [];
  if (!from || !to) return <span>{words}</span>;
  return (
    <button type="button" className="link-quiet" onClick={() => onPair(from, to)}>
      {words}
    </button>
  );
}

function Flows({ sign, flows }: { sign: string; flows: Record<string, string>[] }) {
  return flows.map((f) => (
    <p key={`${f["sources"]} ${f["destinations"]} ${f["services"]}`} className="font-mono text-[12px]">
      <span className={sign === "+" ? "text-primary" : "text-error"}>{sign}</span> {f["sources"]} → {f["destinations"]}: {f["services"]}
    </p>
  ));
}
