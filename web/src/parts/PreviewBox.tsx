import type { UseQueryResult } from "@tanstack/react-query";
import type { Schemas } from "../api/client";
import { shown } from "../shell/consequences";

/** Everything an edit will change, before it is made: the operations, and what they open and close. */
export function PreviewBox({ preview, hint }: { preview: UseQueryResult<Schemas["Preview"]> | null; hint: string }) {
  if (!preview) return <p className="bg-base-200 muted rounded p-3">{hint}</p>;
  if (preview.isError)
    return (
      <p role="alert" className="text-error bg-base-200 rounded p-3">
        {preview.error.message}
      </p>
    );
  if (!preview.data) return <p className="bg-base-200 muted rounded p-3">working it out…</p>;
  const groups = shown(preview.data.consequences);
  return (
    <div className="bg-base-200 rounded p-3" data-testid="preview">
      <p className="mb-1 font-medium">
        {preview.data.patch.length} {preview.data.patch.length === 1 ? "change" : "changes"}; {groups.length === 0 ? "nothing opens or closes" : groups.map((g) => g.words).join(", ")}
      </p>
      <ul className="max-h-28 overflow-y-auto font-mono text-[11.500px]">
        {preview.data.patch.map((op) => (
          <li key={`${String(op["op"])} ${String(op["path"])}`} className="truncate" title={JSON.stringify(op["value"] ?? "")}>
            {String(op["op"])} {String(op["path"])} {op["value"] === undefined ? "" : JSON.stringify(op["value"])}
          </li>
        ))}
      </ul>
    </div>
  );
}
