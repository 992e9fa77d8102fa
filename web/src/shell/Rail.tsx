import { useClimb } from "../api/queries";
import { STAGE_WORDS, STAGES, type StageName } from "./stages";

/** The climb: stages from the cable at the foot to the proof at the top, each with the findings that start there. */
export function Rail({ design, stage, onStage }: { design: string; stage: StageName; onStage: (stage: StageName) => void }) {
  const climb = useClimb(design);
  const counts = new Map(climb.data?.stages.map((s) => [s.name, s]));
  return (
    <nav className="hair bg-base-200 col-start-1 row-start-2 flex min-h-0 flex-col overflow-y-auto border-r" aria-label="The climb">
      <p className="eyebrow px-3 pt-3 [@media(max-height:640px)]:hidden">The climb</p>
      <ol className="relative flex min-h-0 flex-1 flex-col-reverse px-2 pb-3 max-[900px]:px-1">
        {STAGES.map((name, height) => {
          const found = counts.get(name);
          const begin = climb.data?.begin_at === name;
          const here = stage === name;
          return (
            <li key={name} className="flex max-h-20 min-h-9 flex-1">
              <button
                type="button"
                aria-current={here ? "step" : undefined}
                onClick={() => onStage(name)}
                title={STAGE_WORDS[name].about}
                className={`group flex w-full cursor-pointer items-center gap-1 rounded pr-1.5 text-left max-[900px]:pl-1.5 max-[900px]:pr-0.5 ${here ? "bg-base-100 shadow-[inset_0_0_0_1px_var(--color-base-300)]" : "hover:bg-base-100/70"}`}
              >
                <Step height={height} here={here} />
                <span className="min-w-0 flex-1 leading-tight">
                  <span className={`block truncate max-[900px]:text-[11px] ${here ? "font-semibold" : "font-medium"}`}>{STAGE_WORDS[name].title}</span>
                  {begin && <span className="text-error block text-[11px] font-medium">begin here</span>}
                </span>
                {found !== undefined && found.findings > 0 && (
                  <span
                    className={`rounded px-1 font-mono text-[11px] ${found.breaks > 0 ? "bg-error text-error-content" : "bg-base-300"}`}
                    title={`${found.findings} to look at, ${found.breaks} of them break something`}
                  >
                    {found.findings}
                  </span>
                )}
              </button>
            </li>
          );
        })}
      </ol>
    </nav>
  );
}

/** A step of the slope: further right the higher it is, so that the rail reads as a way up. */
function Step({ height, here }: { height: number; here: boolean }) {
  const x = 4 + height * 2.6;
  return (
    <svg
      width="28"
      viewBox="0 0 28 80"
      preserveAspectRatio="none"
      fill="none"
      aria-hidden="true"
      className="h-full max-h-20 min-h-0 shrink-0 self-stretch max-[900px]:hidden"
    >
      <path
        d={`M${x} 80V40H${x + 2.6}V0`}
        vectorEffect="non-scaling-stroke"
        className={here ? "stroke-accent" : "stroke-base-content/35"}
        strokeWidth={here ? 2 : 1.2}
      />
      {here && <rect x={x - 2} y="33" width="6.600" height="14" rx="2" className="fill-accent" />}
    </svg>
  );
}
