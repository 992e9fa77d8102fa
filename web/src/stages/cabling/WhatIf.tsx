import { useWhatIf } from "../../api/queries";
import { shown } from "../../shell/consequences";
import type { StageProps } from "../../shell/parts";

/** While parts have failed: which, what reach is lost by it, and the way back. Nothing of it is written into the design. */
export function WhatIf({ design, place, go }: Pick<StageProps, "design" | "place" | "go">) {
  const found = useWhatIf(design, place.failed);
  const groups = found.data ? shown(found.data) : [];
  const lost = found.data?.closed.filter((c) => !c.folded) ?? [];
  return (
    <section aria-label="What if" data-testid="what-if" className="bg-accent/15 border-accent flex flex-col gap-1 border-t-2 px-4 py-2">
      <p className="flex items-baseline gap-3">
        <strong>What if</strong>
        <span className="min-w-0 flex-1">
          {place.failed.map((part) => (
            <button
              key={part}
              type="button"
              title="Restore it"
              className="link-quiet mr-3 font-mono text-[12px]"
              onClick={() => go({ failed: place.failed.filter((f) => f !== part) })}
            >
              {part} <span aria-hidden="true">×</span>
            </button>
          ))}
          has failed:{" "}
          {found.isError ? (
            <span className="text-error">{found.error.message}</span>
          ) : !found.data ? (
            "working it out…"
          ) : groups.length === 0 ? (
            <strong>no reach is lost.</strong>
          ) : (
            <strong>{groups.map((g) => g.words).join(", ")}.</strong>
          )}
        </span>
        <button type="button" className="link-quiet" onClick={() => go({ failed: [] })}>
          Restore all
        </button>
      </p>
      {lost.length > 0 && (
        <p className="muted max-h-16 overflow-y-auto">
          lost:{" "}
          {lost.map((c, k) => (
            <span key={`${c.source} ${c.target}`}>
              {k > 0 && ", "}
              {c.source} to {c.target}
            </span>
          ))}
        </p>
      )}
    </section>
  );
}
