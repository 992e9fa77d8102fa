import type { Meeting, Schemas } from "../api/client";
import { Dialog } from "../parts/Dialog";

interface Props {
  met: Meeting;
  who: string;
  onChoose: (side: "mine" | "theirs") => void;
  onClose: () => void;
}

/** Two people changed one thing: both versions side by side, and the person chooses. */
export function Clash({ met, who, onChoose, onClose }: Props) {
  const rest = met.beside.length > 0;
  return (
    <Dialog label="Two edits of one thing" onClose={onClose} wide>
      <h2 className="text-base font-semibold">{who} changed the same thing while you did</h2>
      <p className="muted mt-1 mb-3">Nothing of yours is stored yet, nothing of theirs is lost. Which one shall stand?</p>
      <ClashTable clashes={met.clashes} sides={["yours", who === "Somebody else" ? "theirs" : who]} />
      <div className="mt-4 flex flex-wrap items-center gap-2">
        <button type="button" className="btn btn-primary btn-sm" onClick={() => onChoose("mine")}>
          Let mine stand
        </button>
        <button type="button" className="btn btn-outline btn-sm" onClick={() => onChoose("theirs")}>
          Let theirs stand
        </button>
        <button type="button" className="btn btn-ghost btn-sm" onClick={onClose}>
          Cancel my edit
        </button>
        <p className="muted min-w-0 flex-1 text-[12px]">
          {rest ? "What only you changed is made either way." : "Whichever it is, undo brings back the other."}
        </p>
      </div>
    </Dialog>
  );
}

/** What both changed: as it was, and the two versions. */
export function ClashTable({ clashes, sides }: { clashes: Schemas["Clash"][]; sides: [string, string] }) {
  return (
    <table className="w-full text-left" data-testid="clashes">
      <thead className="muted">
        <tr>
          <th className="py-1 pr-3 font-medium">setting</th>
          <th className="py-1 pr-3 font-medium">it was</th>
          <th className="text-primary py-1 pr-3 font-semibold">{sides[0]}</th>
          <th className="text-accent py-1 font-semibold">{sides[1]}</th>
        </tr>
      </thead>
      <tbody>
        {clashes.map((c) => (
          <tr key={`${c.thing} ${c.what}`} className="hair border-t align-top">
            <td className="py-1.5 pr-3">
              {c.thing} <span className="muted block text-[12px]">{c.what}</span>
            </td>
            <td className="muted py-1.5 pr-3 font-mono text-[12px] break-words">{c.was}</td>
            <td className="py-1.5 pr-3 font-mono text-[12px] break-words">{c.mine}</td>
            <td className="py-1.5 font-mono text-[12px] break-words">{c.theirs}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
