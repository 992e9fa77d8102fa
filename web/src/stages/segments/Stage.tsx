import { useState } from "react";
import { useGrid } from "../../api/queries";
import { Empty } from "../../parts/Empty";
import type { StageProps } from "../../shell/parts";
import { MEMBERSHIP_WORDS, MembershipSign, type Membership } from "../../theme/signs";
import { NewVlanDialog } from "./NewVlanDialog";
import { VlanGrid } from "./VlanGrid";

/** VLANs down, ports across; a cell says what the port is to the VLAN; beside each VLAN what has become of it. */
export function SegmentsStage(props: StageProps) {
  const grid = useGrid(props.design);
  const [making, setMaking] = useState(false);
  if (!grid.data) return null;
  if (grid.data.rows.length === 0) return <Empty title="No VLAN yet" hint="Add one under `vlans` in the design document; its ports then stand here." />;
  return (
    <div className="flex h-full flex-col">
      <header className="flex items-baseline gap-4 px-4 pt-3 pb-2">
        <h1 className="text-lg font-semibold">Segments</h1>
        <p className="muted min-w-0 truncate">What each port is to each VLAN. Click or drag to paint, or arrows and t, u, x.</p>
        <span className="flex-1" />
        <button type="button" className="btn btn-primary btn-sm" onClick={() => setMaking(true)}>
          New VLAN
        </button>
      </header>
      {making && <NewVlanDialog {...props} grid={grid.data} onClose={() => setMaking(false)} />}
      <VlanGrid grid={grid.data} {...props} />
      <footer className="hair muted flex flex-wrap gap-x-5 gap-y-1 border-t px-4 py-2 text-[12px]">
        {(["untagged", "tagged", "routed", "leaves", "enters"] as Membership[]).map((m) => (
          <span key={m} className="flex items-center gap-1.5">
            <MembershipSign state={m} /> {MEMBERSHIP_WORDS[m]}
          </span>
        ))}
      </footer>
    </div>
  );
}
