import { Dialog } from "../parts/Dialog";

/** What an undo would take back is somebody else's edit: it is asked first. */
export function UndoOfOthers({ who, onChoose }: { who: string; onChoose: (yes: boolean) => void }) {
  return (
    <Dialog label="An edit of somebody else" onClose={() => onChoose(false)}>
      <h2 className="text-base font-semibold">The last edit is {who}'s</h2>
      <p className="muted mt-1 mb-4">{who} may be counting on it. Redo brings it back.</p>
      <p className="flex justify-end gap-2">
        <button type="button" className="btn btn-ghost btn-sm" autoFocus onClick={() => onChoose(false)}>
          Leave it
        </button>
        <button type="button" className="btn btn-error btn-sm" onClick={() => onChoose(true)}>
          Take it back
        </button>
      </p>
    </Dialog>
  );
}
