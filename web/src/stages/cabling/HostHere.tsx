import { useState } from "react";
import { useChoices, useMakePreview, workedOut } from "../../api/making";
import type { StageProps } from "../../shell/parts";
import { nameFor } from "./model";

interface Props extends Pick<StageProps, "design" | "change"> {
  /** The free port, as box:port. */
  at: string;
  names: string[];
  onDone: () => void;
}

/** A host on the end of the cable that hangs there: its name, its VLAN, its address or a lease. */
export function HostHere({ design, change, at, names, onDone }: Props) {
  const [host, setHost] = useState({ name: nameFor("endpoint", names), vlan: "", address: "" });
  const vlans = useChoices(design, "vlan", "");
  const body = { name: host.name.trim(), at, vlan: host.vlan === "" ? null : Number(host.vlan), address: host.address.trim() || null };
  const wanted = body.name === "" ? null : ({ action: "new-host", body } as const);
  const preview = useMakePreview(design, wanted);
  const ready = wanted && workedOut(preview);
  const field = "h-7 rounded border border-current/40 bg-transparent px-2";
  return (
    <form
      aria-label="A host here"
      className="flex flex-wrap items-center gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        if (!ready) return;
        change.mutate({ kind: "patch", patch: ready.patch });
        onDone();
      }}
    >
      <span>or put a host on it:</span>
      <input className={`${field} w-28`} aria-label="Name of the host" value={host.name} onChange={(e) => setHost({ ...host, name: e.target.value })} />
      <select className={field} aria-label="Its VLAN" value={host.vlan} onChange={(e) => setHost({ ...host, vlan: e.target.value })}>
        <option value="">as the port is</option>
        {vlans.data?.map((v) => (
          <option key={v.value} value={v.value}>
            {v.value} {v.label}
          </option>
        ))}
      </select>
      <input
        className={`${field} w-36 font-mono text-[12px]`}
        aria-label="Its address"
        placeholder="asks for a lease"
        value={host.address}
        onChange={(e) => setHost({ ...host, address: e.target.value })}
      />
      <button type="submit" className="btn btn-xs h-7" disabled={!ready}>
        Put it there
      </button>
      {preview.isError && wanted && <span role="alert">{preview.error.message}</span>}
    </form>
  );
}
