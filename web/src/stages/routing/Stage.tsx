import { DoorOpen, Search } from "lucide-react";
import { useState } from "react";
import { useLookup, useRouting } from "../../api/queries";
import { Empty, Working } from "../../parts/Empty";
import { Segmented } from "../../parts/Segmented";
import { Tabs } from "../../parts/Tabs";
import type { StageProps } from "../../shell/parts";
import { MakeButton } from "../../shell/thing/MakeButton";
import { Interfaces } from "./Interfaces";
import { chosen } from "./model";
import { VrfTables } from "./VrfTables";
import { WayOutDialog } from "./WayOutDialog";

/** Layer 3 as each box would have it: interfaces with their leases, the table of every VRF, and which route wins for an address. */
export function RoutingStage(props: StageProps) {
  const { design, place, go } = props;
  const routing = useRouting(design);
  const devices = routing.data?.devices ?? [];
  const device = chosen(devices, place.box);
  const [vrf, setVrf] = useState("main");
  const [leading, setLeading] = useState(false);
  const table = device?.vrfs.some((v) => v.name === vrf) ? vrf : (device?.vrfs[0]?.name ?? "main");
  const lookup = useLookup(design, device?.name ?? "", table, place.look);
  if (routing.data && !device)
    return (
      <Empty
        title="Nothing routes yet"
        hint="Give a port, a subinterface or a VLAN an address, and its table stands here: open a port from its box on Cabling, and set its mode to routed."
      >
        <button type="button" className="btn btn-primary btn-sm" onClick={() => setLeading(true)}>
          A way out to the internet
        </button>
        <button type="button" className="btn btn-outline btn-sm" onClick={() => go({ stage: "cabling" })}>
          To the boxes
        </button>
        {leading && <WayOutDialog {...props} onClose={() => setLeading(false)} />}
      </Empty>
    );
  if (!device) return <Working />;
  const leases = place.step === "interfaces";
  return (
    <div className="flex h-full flex-col">
      <header className="flex flex-wrap items-center gap-x-4 gap-y-1 px-4 pt-3 pb-2">
        <h1 className="text-lg font-semibold">Routing</h1>
        <Tabs label="Device" names={devices.map((d) => d.name)} chosen={device.name} onChoose={(box) => go({ box })} />
        <Segmented
          label="View"
          options={[
            ["tables", "Tables"],
            ["interfaces", "Interfaces and leases"],
          ]}
          chosen={leases ? "interfaces" : "tables"}
          onChoose={(view) => go({ step: view === "interfaces" ? view : null })}
        />
        <form className="ml-auto flex items-center gap-2" role="search" onSubmit={(e) => e.preventDefault()}>
          <label className="hair flex h-7 items-center gap-1.5 rounded border px-2">
            <Search size={13} className="muted" aria-hidden="true" />
            <input
              className="w-40 bg-transparent font-mono text-[12px] outline-none"
              aria-label="Which route wins for this address"
              placeholder="which route wins for…"
              defaultValue={place.look}
              key={place.look}
              onBlur={(e) => go({ look: e.target.value.trim() })}
              onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
            />
          </label>
          {device.vrfs.length > 1 && (
            <select className="select select-xs h-7 w-24" aria-label="VRF it is looked up in" value={table} onChange={(e) => setVrf(e.target.value)}>
              {device.vrfs.map((v) => (
                <option key={v.name}>{v.name}</option>
              ))}
            </select>
          )}
        </form>
      </header>
      {place.look !== "" && (
        <p role="status" className={`mx-4 mb-1 rounded px-3 py-1.5 ${lookup.isError ? "bg-base-200 text-error" : "bg-accent/15"}`} data-testid="lookup">
          {lookup.isError ? (
            lookup.error.message
          ) : (
            <>
              <span className="font-mono">{lookup.data?.address ?? place.look}</span> in VRF {table}: <strong>{lookup.data?.outcome ?? "…"}</strong>
            </>
          )}
        </p>
      )}
      {leading && <WayOutDialog {...props} onClose={() => setLeading(false)} />}
      <p className="flex flex-wrap items-center gap-2 px-4 pb-1">
        <button type="button" className="btn btn-ghost btn-xs" onClick={() => setLeading(true)}>
          <DoorOpen size={12} aria-hidden="true" /> a way out
        </button>
        {device.kind === "outside" && (
          <MakeButton {...props} kind="offer" at={device.pointer} owner="outside" label="tunnel it takes" className="btn btn-ghost btn-xs" />
        )}
        {["switch", "router", "firewall"].includes(device.kind) &&
          [
            ["vlan-interface", "VLAN interface"],
            ["loopback", "loopback"],
            ["lease", "DHCP"],
            ["vrf", "VRF"],
            ["tunnel", "tunnel"],
            ["remote-access", "dial-in"],
            ["filter", "filter"],
            ...(device.kind === "switch" ? [["mac-vrf", "MAC-VRF"]] : []),
          ].map(([kind = "", label = ""]) => (
            <MakeButton key={kind} {...props} kind={kind} at={device.pointer} owner={device.kind} label={label} className="btn btn-ghost btn-xs" />
          ))}
      </p>
      <div className="relative min-h-0 flex-1 overflow-y-auto px-4 pb-4" data-scrolls>
        {leases ? (
          <Interfaces {...props} device={device} strips={routing.data?.strips ?? []} />
        ) : (
          <VrfTables {...props} device={device} lookup={lookup.isError || place.look === "" ? undefined : lookup.data} />
        )}
      </div>
    </div>
  );
}
