import type { Schemas } from "../api/client";
import { shown } from "../shell/consequences";

/** A preview that was asked for: on its way, refused, or there. */
interface Asked {
  isError: boolean;
  error: Error | null;
  data?: Schemas["Preview"] | undefined;
}

/** Everything an edit will change, before it is made, in words: what of the design, and what that opens and closes. */
export function PreviewBox({ preview, hint }: { preview: Asked | null; hint: string }) {
  if (!preview) return <p className="bg-base-200 muted rounded p-3">{hint}</p>;
  if (preview.isError)
    return (
      <p role="alert" className="text-error bg-base-200 rounded p-3">
        {preview.error?.message}
      </p>
    );
  if (!preview.data) return <p className="bg-base-200 muted rounded p-3">working it out…</p>;
  const groups = shown(preview.data.consequences);
  const { drops = [], missing = [], come, gone } = preview.data;
  return (
    <div className="bg-base-200 rounded p-3" data-testid="preview">
      <p className="mb-1 font-medium">
        {preview.data.words.length} {preview.data.words.length === 1 ? "thing" : "things"} changed or added;{" "}
        {groups.length === 0 ? "nothing opens or closes" : groups.map((g) => g.words).join(", ")}
      </p>
      <Said words="goes or changes with it" lines={drops} tone="text-error" />
      <Said words="still missing" lines={missing} tone="text-error" />
      <Said words="to mend then" lines={come} tone="text-error" />
      <Said words="mended by it" lines={gone} tone="text-success" />
      <ul className="mt-1 max-h-32 overflow-y-auto text-[12px]">
        {preview.data.words.map((w) => (
          <li key={`${w.sign} ${w.kind} ${w.title} ${w.now ?? w.before}`} className="truncate" title={w.words.join("; ")}>
            <span className="muted">{w.sign}</span> {w.kind} <strong className="font-medium">{w.title}</strong>
            {w.words.length > 0 && <span className="muted">: {w.words.join("; ")}</span>}
          </li>
        ))}
      </ul>
    </div>
  );
}

/** What an edit does beside its operations, a word in front and a line each. */
function Said({ words, lines, tone }: { words: string; lines: string[]; tone: string }) {
  if (lines.length === 0) return null;
  return (
    <dl className="mb-1">
      <dt className={`text-[11px] font-semibold ${tone}`}>{words}</dt>
      {lines.slice(0, 6).map((line) => (
        <dd key={line} className="border-base-300 border-l-2 pl-2">
          {line}
        </dd>
      ))}
      {lines.length > 6 && <dd className="muted pl-2">and {lines.length - 6} more</dd>}
    </dl>
  );
}
