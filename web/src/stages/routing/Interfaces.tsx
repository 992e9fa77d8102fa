import type { StageProps } from "../../shell/parts";
import { QuickPick } from "../../parts/fields/QuickPick";
import { LeaseStrip, StripKey } from "./LeaseStrip";
import { type Device, type Strip, stripsOf } from "./model";

type Props = StageProps & { device: Device; strips: Strip[] };

/** Every layer-3 interface of a box, up or not and why, with what it leases under it. */
export function Interfaces({ design, change, device, strips, place, select, go }: Props) {
  const put = (at: string, key: string, value: string | null) =>
    change.mutate({ kind: "patch", patch: [value === null ? { op: "remove", path: `${at}/${key}` } : { op: "add", path: `${at}/${key}`, value }] });
  return (
    <section aria-label="Interfaces">
      <table className="w-full border-collapse">
        <thead>
          <tr className="hair border-b text-left">
            {["interface", "addresses", "segment", "zone", "answers", "VRF"].map((head) => (
              <th key={head} scope="col" className="eyebrow py-1 pr-3 font-semibold">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        {device.interfaces.map((i) => (
          <tbody key={i.name} data-interface={i.name} className={`hair border-b ${place.at === i.pointer ? "bg-base-200" : ""}`}>
            <tr className="align-top">
              <td className="py-1.5 pr-3 whitespace-nowrap">
                <UpSign up={i.up} />
                <button type="button" className="link-quiet font-mono font-medium" onClick={() => select(i.pointer)}>
                  {i.name}
                </button>
                <span className="muted ml-1.5 text-[11px]">{i.kind}</span>
              </td>
              <td className="py-1.5 pr-3 font-mono text-[12px]">
                {i.addresses.map((a) => (
                  <div key={a}>{a}</div>
                ))}
                {(i.virtual ?? []).map((v) => (
                  <div key={v} className="muted">
                    {v}
                  </div>
                ))}
                {i.addresses.length === 0 && <span className="text-error font-sans">none</span>}
              </td>
              <td className="py-1.5 pr-3">
                {i.segment ? (
                  <button type="button" className="link-quiet" onClick={() => go({ stage: "segments" })}>
                    {i.segment}
                  </button>
                ) : (
                  <span className="muted">none</span>
                )}
              </td>
              <td className="py-1 pr-3">
                {device.kind === "firewall" ? (
                  <QuickPick
                    design={design}
                    names="zone"
                    at={i.pointer}
                    label={`Zone of ${i.name}`}
                    value={i.zone}
                    none="none"
                    onPick={(v) => put(i.pointer, "zone", v)}
                  />
                ) : (
                  <span className="muted">–</span>
                )}
              </td>
              <td className="py-1 pr-3">
                {device.kind === "outside" ? (
                  <span className="muted">–</span>
                ) : (
                  <QuickPick
                    design={design}
                    names="answers"
                    at={i.pointer}
                    label={`What ${i.name} answers`}
                    value={i.answers}
                    none={device.kind === "firewall" ? "nothing" : "everything"}
                    onPick={(v) => put(i.pointer, "answers", v)}
                  />
                )}
              </td>
              <td className="py-1.5">{i.vrf}</td>
            </tr>
            {!i.up && (
              <tr>
                <td colSpan={6} className="text-error pb-1.5 pl-5">
                  {i.reason}
                </td>
              </tr>
            )}
            {stripsOf(strips, device.name, i.name).map((s) => (
              <tr key={s.pointer + s.subnet}>
                <td colSpan={6} className="pb-2 pl-5">
                  <LeaseStrip strip={s} select={select} />
                </td>
              </tr>
            ))}
          </tbody>
        ))}
      </table>
      <StripKey strips={strips.filter((s) => s.device === device.name)} />
    </section>
  );
}

/** A standing bar = up, a crossed one = down. */
function UpSign({ up }: { up: boolean }) {
  return (
    <svg width="14" height="14" viewBox="0 0 14 14" className="mr-1.5 inline" role="img" aria-label={up ? "up" : "down"} fill="none" strokeLinecap="round">
      {up ? (
        <path d="M7 2.500v9M3.500 11.500h7" className="stroke-primary" strokeWidth="2" />
      ) : (
        <path d="M3 3l8 8M11 3l-8 8" className="stroke-error" strokeWidth="2" />
      )}
    </svg>
  );
}
