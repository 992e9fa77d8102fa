import { useState } from "react";
import { useEvent, useNames, usePairs } from "../../api/queries";
import { Empty, Working } from "../../parts/Empty";
import { Tabs } from "../../parts/Tabs";
import type { StageProps } from "../../shell/parts";
import { DrillView } from "./DrillView";
import { MakePairDialog } from "./MakePairDialog";
import { activeUnits } from "./model";
import { SweepTable } from "./SweepTable";
import { TimeLine } from "./TimeLine";
import { Units } from "./Units";

const TABS = ["On stage", "Every failure", "Drill sheet"];

/** No pair yet: each firewall can be made one. */
function NoPair(props: StageProps) {
  const names = useNames(props.design);
  const [device, setDevice] = useState<string | null>(null);
  const firewalls = (names.data ?? []).filter((l) => l.kind === "Firewall");
  return (
    <Empty
      title="No failover pair"
      hint={
        firewalls.length === 0
          ? "Pairs are made of firewalls, and there is none yet."
          : "Make a firewall a pair: the second unit, its cables beside the first's, heartbeats and a watch list are proposed."
      }
    >
      {firewalls.map((f) => (
        <button key={f.pointer} type="button" className="btn btn-primary btn-sm" onClick={() => setDevice(f.title)}>
          Make {f.title} a pair
        </button>
      ))}
      {device !== null && <MakePairDialog design={props.design} change={props.change} device={device} onClose={() => setDevice(null)} />}
    </Empty>
  );
}

/** The two units side by side; fail any part and watch who takes over; every failure by harm; a sheet for the real drill. */
export function FailoverStage(props: StageProps) {
  const { design, place, go } = props;
  const [tab, setTab] = useState(TABS[0] ?? "");
  const [now, setNow] = useState<string | null>(null);
  const pairs = usePairs(design);
  const event = useEvent(design, place.failed, now);
  if (!pairs.data) return <Working />;
  const pair = pairs.data[0];
  if (!pair) return <NoPair {...props} />;
  const active = activeUnits(event.data);
  return (
    <div className="flex h-full flex-col">
      <header className="flex flex-wrap items-baseline gap-x-4 gap-y-1 px-4 pt-3 pb-1">
        <h1 className="text-lg font-semibold">Failover</h1>
        <Tabs label="Failover" names={TABS} chosen={tab} onChoose={setTab} />
        {place.failed.length > 0 && (
          <button type="button" className="btn btn-outline btn-xs ml-auto" onClick={() => go({ failed: [] })}>
            Restore everything
          </button>
        )}
      </header>
      <div className="min-h-0 flex-1 overflow-y-auto px-4 pb-4">
        {tab === TABS[0] && (
          <>
            {event.isError && (
              <p role="alert" className="text-error">
                {event.error.message}
              </p>
            )}
            {event.data && <TimeLine event={event.data} failed={place.failed} onRestore={(part) => go({ failed: place.failed.filter((f) => f !== part) })} />}
            {pairs.data.map((p) => (
              <Units key={p.name} pair={p} active={active} now={now} onNow={setNow} {...props} />
            ))}
          </>
        )}
        {tab === TABS[1] && (
          <SweepTable
            design={design}
            onStage={(failed) => {
              go({ failed });
              setTab(TABS[0] ?? "");
            }}
          />
        )}
        {tab === TABS[2] && pairs.data.map((p) => <DrillView key={p.name} pair={p} {...props} />)}
      </div>
    </div>
  );
}
