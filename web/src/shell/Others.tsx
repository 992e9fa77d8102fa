import type { Page } from "../api/stream";
import { isStage, STAGE_WORDS } from "./stages";

/** Who else has this design open, and where; a click goes there. */
export function Others({ others, onVisit }: { others: Page[]; onVisit: (page: Page) => void }) {
  if (others.length === 0) return null;
  return (
    <ul className="flex min-w-0 shrink items-center gap-1 overflow-hidden" aria-label="Also here">
      {others.slice(0, 5).map((page) => (
        <li key={page.tab}>
          <button
            type="button"
            className="bg-secondary text-secondary-content flex h-6 cursor-pointer items-center rounded-full px-2 text-[11px] font-semibold"
            title={`${page.who} is on ${placeWords(page)}; go there`}
            onClick={() => onVisit(page)}
          >
            {page.who} <span className="ml-1 font-normal opacity-85 max-[900px]:hidden">{placeWords(page)}</span>
          </button>
        </li>
      ))}
      {others.length > 5 && <li className="muted text-[12px]">and {others.length - 5} more</li>}
    </ul>
  );
}

function placeWords(page: Page): string {
  return isStage(page.stage) ? STAGE_WORDS[page.stage].title : page.stage;
}
