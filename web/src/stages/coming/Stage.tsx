import { Empty } from "../../parts/Empty";
import { STAGE_WORDS, type StageName } from "../../shell/stages";

/** A stage that this version does not have yet. */
export function ComingStage({ stage }: { stage: StageName }) {
  const words = STAGE_WORDS[stage];
  return <Empty title={`${words.title} is still to come`} hint={words.about} />;
}
