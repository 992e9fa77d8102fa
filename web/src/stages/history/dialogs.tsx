import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useFolding, useHistory } from "../../api/history";
import { useExpectations } from "../../api/queries";
import { Dialog } from "../../parts/Dialog";
import { PreviewBox } from "../../parts/PreviewBox";
import { ClashTable } from "../../shell/Clash";

/** Publish the draft: why, and, while expectations fail, why all the same. */
export function PublishDialog({ design, version, onClose }: { design: string; version: number; onClose: () => void }) {
  const [reason, setReason] = useState("");
  const [forced, setForced] = useState("");
  const expected = useExpectations(design);
  const { publish } = useHistory(design);
  const failing = expected.data?.expectations.filter((e) => !e.holds) ?? [];
  const ready = reason.trim() !== "" && (failing.length === 0 || forced.trim() !== ""); // while expectations are judged the server has the say
  return (
    <Dialog label="Publish" onClose={onClose}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (ready) publish.mutate({ version, body: { reason: reason.trim(), forced: failing.length > 0 ? forced.trim() : null } }, { onSuccess: onClose });
        }}
      >
        <h2 className="text-base font-semibold">Publish draft {version}</h2>
        <label className="flex flex-col gap-1">
          <span className="muted">Why? The next person reads this.</span>
          <input
            className="input w-full"
            required
            maxLength={2000}
            value={reason}
            onChange={(e) => setReason(e.target.value)}
            placeholder="Tills moved to their own VLAN"
          />
        </label>
        {failing.length > 0 && (
          <div className="border-error rounded border-l-4 pl-3">
            <p className="text-error font-semibold">
              {failing.length} {failing.length === 1 ? "expectation fails" : "expectations fail"}
            </p>
            <ul>
              {failing.map((e) => (
                <li key={e.name}>
                  {e.name}: <span className="muted">{e.reason}</span>
                </li>
              ))}
            </ul>
            <label className="mt-2 flex flex-col gap-1">
              <span className="muted">Why all the same?</span>
              <input className="input w-full" maxLength={2000} value={forced} onChange={(e) => setForced(e.target.value)} />
            </label>
          </div>
        )}
        {publish.isError && (
          <p role="alert" className="text-error">
            {publish.error.message}
          </p>
        )}
        <button type="submit" className={`btn btn-sm self-start ${failing.length > 0 ? "btn-error" : "btn-primary"}`} disabled={!ready || publish.isPending}>
          {failing.length > 0 ? "Publish all the same" : "Publish"}
        </button>
      </form>
    </Dialog>
  );
}

/** Begin a what-if. */
export function BranchDialog({
  design,
  revision,
  onMade,
  onClose,
}: {
  design: string;
  revision: number | null;
  onMade: (id: string) => void;
  onClose: () => void;
}) {
  const [title, setTitle] = useState("");
  const { branch } = useHistory(design);
  return (
    <Dialog label="What if" onClose={onClose}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          branch.mutate({ title, revision }, { onSuccess: (made) => onMade(made.id) });
        }}
      >
        <h2 className="text-base font-semibold">What if…</h2>
        <p className="muted">
          A draft of its own, begun from {revision === null ? "the draft as it is" : `revision ${revision}`}. Fold it back when it is right, or drop it.
        </p>
        <label className="flex items-center gap-2">
          what if
          <input
            className="input flex-1"
            required
            maxLength={80}
            value={title}
            onChange={(e) => setTitle(e.target.value)}
            placeholder="the tills had a VLAN each"
          />
        </label>
        {branch.isError && (
          <p role="alert" className="text-error">
            {branch.error.message}
          </p>
        )}
        <button type="submit" className="btn btn-primary btn-sm self-start" disabled={title.trim() === "" || branch.isPending}>
          Begin
        </button>
      </form>
    </Dialog>
  );
}

/** Fold a what-if back into the draft it came from: what that does, and who has the last word where both changed one thing. */
export function FoldDialog({
  design,
  branch,
  onFolded,
  onClose,
}: {
  design: string;
  branch: Schemas["Listed"];
  onFolded: (into: string) => void;
  onClose: () => void;
}) {
  const [wins, setWins] = useState<"mine" | "theirs">("mine");
  const folding = useFolding(branch.id, wins);
  const { fold } = useHistory(design);
  const clashes = folding.data?.clashes ?? [];
  const preview = { ...folding, data: folding.data?.preview } as Parameters<typeof PreviewBox>[0]["preview"];
  return (
    <Dialog label="Fold back" onClose={onClose} wide>
      <h2 className="mb-2 text-base font-semibold">Fold “what if {branch.branch_title}” back into the draft</h2>
      {clashes.length > 0 && (
        <>
          <p className="mb-1">The draft changed the same things meanwhile.</p>
          <ClashTable clashes={clashes} sides={["the what-if", "the draft"]} />
          <p className="my-2 flex gap-4">
            {(["mine", "theirs"] as const).map((side) => (
              <label key={side} className="flex items-center gap-1.5">
                <input type="radio" className="radio radio-xs" name="wins" checked={wins === side} onChange={() => setWins(side)} />
                {side === "mine" ? "let the what-if stand" : "let the draft stand"}
              </label>
            ))}
          </p>
        </>
      )}
      <PreviewBox preview={preview} hint="" />
      {(fold.isError || folding.isError) && (
        <p role="alert" className="text-error mt-2">
          {(fold.error ?? folding.error)?.message}
        </p>
      )}
      <button
        type="button"
        className="btn btn-primary btn-sm mt-3"
        disabled={!folding.data || fold.isPending}
        onClick={() =>
          folding.data && fold.mutate({ branch: branch.id, version: folding.data.version, wins }, { onSuccess: () => (onClose(), onFolded(folding.data.into)) })
        }
      >
        Fold back
      </button>
    </Dialog>
  );
}
