import { useMatrix } from "../../api/queries";
import { Empty, Working } from "../../parts/Empty";
import type { StageProps } from "../../shell/parts";
import { Legend } from "./Legend";
import { MatrixMap } from "./MatrixMap";
import { MatrixTable } from "./MatrixTable";
import { tellingPair } from "./model";
import { OwnAddresses } from "./OwnAddresses";
import { PairPanel } from "./PairPanel";
import { ProfileView } from "./ProfileView";
import { QuestionBar } from "./QuestionBar";

/** Who reaches whom: the matrix, the chosen pair's exact flows, and the climb profile of one flow. */
export function ReachStage(props: StageProps) {
  const { design, place } = props;
  const matrix = useMatrix(design, place.question, place.transits);
  const shownPair = place.pair ?? (matrix.data ? tellingPair(matrix.data) : null);
  return (
    <div className="flex h-full flex-col">
      <QuestionBar {...props} problem={matrix.isError ? matrix.error.message : null} scheduled={matrix.data?.scheduled ?? false} />
      {matrix.isPending && <Working />}
      {matrix.data && matrix.data.segments.length < 2 && (
        <Empty title="Fewer than two segments" hint="Cable two devices, put ports into VLANs, and the matrix fills by itself." />
      )}
      {matrix.data && matrix.data.segments.length >= 2 && (
        <div className="flex min-h-0 flex-1 flex-col overflow-y-auto">
          {matrix.data.cells.length === 0 ? (
            <div className="flex h-[62%] min-h-80 shrink-0 gap-x-4 px-4">
              <MatrixMap {...props} shownPair={shownPair} />
              <div className="flex w-64 shrink-0 overflow-y-auto">
                <PairPanel {...props} shownPair={shownPair} />
              </div>
            </div>
          ) : (
            <div className="flex min-h-0 shrink-0 flex-wrap gap-x-4 px-4">
              <div className="min-w-0 shrink-0 overflow-x-auto">
                <MatrixTable matrix={matrix.data} {...props} shownPair={shownPair} />
                <Legend matrix={matrix.data} design={design} />
              </div>
              <PairPanel {...props} shownPair={shownPair} />
            </div>
          )}
          <OwnAddresses {...props} />
          <ProfileView {...props} shownPair={shownPair} />
        </div>
      )}
    </div>
  );
}
