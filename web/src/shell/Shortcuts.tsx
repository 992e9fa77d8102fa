import { Dialog } from "../parts/Dialog";
import { HELP } from "./help";
import { STAGE_WORDS, type StageName } from "./stages";

const KEYS: [string, string][] = [
  ["/", "find anything"],
  ["1 … 8", "a stage of the climb, from the cable up"],
  ["arrows", "move in the grid or the matrix"],
  ["t  u  x", "in the grid: tagged, untagged, not a member"],
  ["Shift arrows", "in the grid: choose many cells; t, u, x then set all of them"],
  ["drag", "in the grid: paint many cells like the first"],
  ["Enter", "put the cell's port, or the pair's deciding item, on the bench side"],
  ["f", "in the matrix: another flow of the same pair (what stops, what passes)"],
  ["r", "in the matrix: the other direction"],
  ["b", "bench side open or shut"],
  ["d", "light or dark"],
  ["Ctrl Z", "undo"],
  ["Ctrl Shift Z", "redo"],
  ["Esc", "close what is open"],
];

interface Props {
  stage: StageName;
  letters: boolean;
  onLetters: () => void;
  onClose: () => void;
}

/** What the stage is for, and every shortcut, under `?`. */
export function Shortcuts({ stage, letters, onLetters, onClose }: Props) {
  const { lines, page } = HELP[stage];
  return (
    <Dialog label="Help" onClose={onClose}>
      <h2 className="mb-1 font-semibold">{STAGE_WORDS[stage].title}</h2>
      <p>{STAGE_WORDS[stage].about}</p>
      <ul className="mt-1 list-disc pl-5">
        {lines.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
      <p className="mt-1 mb-4 flex gap-4">
        {[page, "names", "format"].map((name) => (
          <a key={name} className="link-quiet" href={`/docs/${name}`} target="_blank" rel="noreferrer">
            {name}
          </a>
        ))}
      </p>
      <h2 className="mb-3 font-semibold">Keyboard</h2>
      <label className="mb-3 flex cursor-pointer items-center gap-2">
        <input type="checkbox" className="toggle toggle-sm" checked={letters} onChange={onLetters} />
        single keys (/ ? b d 1 … 8) act wherever the focus is; those of the grid and the matrix always act there
      </label>
      <dl className="grid grid-cols-[8rem_1fr] gap-y-1.5">
        {KEYS.map(([key, what]) => (
          <div key={key} className="contents">
            <dt className="font-mono">{key}</dt>
            <dd>{what}</dd>
          </div>
        ))}
      </dl>
    </Dialog>
  );
}
