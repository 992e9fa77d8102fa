import { useState } from "react";
import { useEnds, useGrid } from "../../api/queries";
import { Empty, Working } from "../../parts/Empty";
import { Tabs } from "../../parts/Tabs";
import type { StageProps } from "../../shell/parts";
import { MEMBERSHIP_WORDS, MembershipSign } from "../../theme/signs";
import { MakeButton } from "../../shell/thing/MakeButton";
import { EndsView } from "./EndsView";
import { NewSegmentDialog } from "./NewSegmentDialog";
import { NewVlanDialog } from "./NewVlanDialog";
import { VlanGrid } from "./VlanGrid";
import { VlanListDialog } from "./VlanListDialog";

/** VLANs down, ports across; a cell says what the port is to the VLAN; beside each VLAN what has become of it. */
export function SegmentsStage(props: StageProps) {
  const grid = useGrid(props.design);
  const [made, setMaking] = useState<"segment" | "vlan" | "list" | null>(null);
  const { step } = props.place;
  const making = step === "segment" || step === "visitors" ? "segment" : made;
  const done = () => {
    setMaking(null);
    if (step && step !== "ends") props.go({ step: null });
  };
  const view = step === "ends" ? "ends" : "grid";
  const ends = useEnds(props.design);
  const differ = ends.data?.filter((e) => e.differences.length > 0).length ?? 0;
  if (!grid.data) return <Working />;
  if (grid.data.rows.length === 0)
    return (
      <Empty title="No VLAN yet" hint="VLANs stand here down the side, and the ports of every box across. Make the first, or paste the list you came with.">
        <button type="button" className="btn btn-primary btn-sm" onClick={() => setMaking("segment")}>
          New segment
        </button>
        <MakeButton {...props} kind="vlan" at="" owner="" label="New VLAN" className="btn btn-outline btn-sm" />
        <button type="button" className="btn btn-outline btn-sm" onClick={() => setMaking("list")}>
          Paste a list
        </button>
        {making === "list" && <VlanListDialog {...props} onClose={() => setMaking(null)} />}
        {making === "segment" && <NewSegmentDialog {...props} purpose={step === "visitors" ? "visitors" : "inside"} onClose={done} />}
      </Empty>
    );
  return (
    <div className="flex h-full flex-col">
      <header className="flex flex-wrap items-baseline gap-4 px-4 pt-3 pb-2">
        <h1 className="text-lg font-semibold">Segments</h1>
        <Tabs
          label="View"
          names={["grid", "ends"]}
          chosen={view}
          onChoose={(name) => props.go({ step: name === "ends" ? name : null })}
          words={(name) =>
            name === "grid" ? (
              "VLANs by port"
            ) : (
              <>Both ends of each cable{differ > 0 && <span className="text-error ml-1 font-semibold">{differ} differ</span>}</>
            )
          }
        />
        {view === "grid" && <p className="muted hidden min-w-0 truncate 2xl:block">Click or drag to paint, or arrows and t, u, x.</p>}
        <span className="flex-1" />
        <button type="button" className="btn btn-ghost btn-sm" onClick={() => setMaking("list")}>
          Paste a list
        </button>
        <button type="button" className="btn btn-outline btn-sm" onClick={() => setMaking("vlan")}>
          New VLAN
        </button>
        <button type="button" className="btn btn-primary btn-sm" onClick={() => setMaking("segment")}>
          New segment
        </button>
      </header>
      {making === "list" && <VlanListDialog {...props} onClose={() => setMaking(null)} />}
      {making === "vlan" && <NewVlanDialog {...props} grid={grid.data} onClose={() => setMaking(null)} />}
      {making === "segment" && <NewSegmentDialog {...props} purpose={step === "visitors" ? "visitors" : "inside"} onClose={done} />}
      {view === "grid" ? <VlanGrid grid={grid.data} {...props} /> : <EndsView ends={ends.data ?? []} {...props} />}
      {view === "grid" && (
        <footer className="hair muted flex flex-wrap gap-x-5 gap-y-1 border-t px-4 py-2 text-[12px]">
          {(["untagged", "tagged", "routed", "leaves", "enters"] as const).map((m) => (
            <span key={m} className="flex items-center gap-1.5">
              <MembershipSign state={m} /> {MEMBERSHIP_WORDS[m]}
            </span>
          ))}
        </footer>
      )}
    </div>
  );
}
