import { memo, useMemo } from "react";
import { useSteady } from "../../parts/useSteady";
import type { StageProps } from "../../shell/parts";
import { Gap } from "../../parts/Gap";
import { type Measure, useLong } from "../../parts/useLong";
import { QuickPick } from "../../parts/fields/QuickPick";
import { LeaseStrip, StripKey } from "./LeaseStrip";
import { type Device, type Strip, stripsOf } from "./model";

type Props = StageProps & { device: Device; strips: Strip[] };

/** How high an interface is until it is measured, without and with what it leases. */
const HEIGHT = 35;
const LEASES = 45;

const COLUMNS: [string, string][] = [
  ["interface", "w-[23%]"],
  ["addresses", "w-[22%]"],
  ["segment", "w-[17%]"],
  ["zone", "w-[14%]"],
  ["answers", "w-[17%]"],
  ["VRF", "w-[7%]"],
];

/** Every layer-3 interface of a box, up or not and why, with what it leases under it. */
export function Interfaces({ design, change, device, strips, place, select, go }: Props) {
  const put = useSteady((at: string, key: string, value: string | null) =>
    change.mutate({ kind: "patch", patch: [value === null ? { op: "remove", path: `${at}/${key}` } : { op: "add", path: `${at}/${key}`, value }] }),
  );
  const segments = useSteady(() => go({ stage: "segments" }));
  const hands = useMemo<Hands>(() => ({ put, segments, select }), [put, segments, select]);
  const here = useMemo(() => strips.filter((s) => s.device === device.name), [device, strips]);
  const own = useMemo(() => new Map(device.interfaces.map((i) => [i.name, stripsOf(strips, device.name, i.name)])), [device, strips]);
  const { frame, drawn, above, below, measure } = useLong<HTMLTableSectionElement>({
    count: device.interfaces.length,
    heightOf: (k) => HEIGHT + LEASES * (own.get(device.interfaces[k]?.name ?? "")?.length ?? 0),
    lit: device.interfaces.findIndex((i) => i.pointer === place.at),
  });
  return (
    <section aria-label="Interfaces">
      <table className="w-full table-fixed border-collapse" aria-rowcount={device.interfaces.length + 1}>
        <thead>
          <tr className="hair border-b text-left">
            {COLUMNS.map(([head, width]) => (
              <th key={head} scope="col" className={`eyebrow py-1 pr-3 font-semibold ${width}`}>
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody ref={frame}>
          <Gap height={above} columns={COLUMNS.length} />
        </tbody>
        {drawn.flatMap((k) => {
          const i = device.interfaces[k];
          if (!i) return [];
          return (
            <Interface
              key={i.name}
              design={design}
              kind={device.kind}
              interface={i}
              strips={own.get(i.name) ?? NONE}
              at={k}
              measure={measure}
              lit={place.at === i.pointer}
              hands={hands}
            />
          );
        })}
        <tbody>
          <Gap height={below} columns={COLUMNS.length} />
        </tbody>
      </table>
      <StripKey strips={here} />
    </section>
  );
}

const NONE: Strip[] = [];

/** What an interface's row can do; the same all the time, so that scrolling draws no row anew. */
interface Hands {
  put: (at: string, key: string, value: string | null) => void;
  segments: () => void;
  select: StageProps["select"];
}

interface InterfaceProps {
  design: string;
  kind: Device["kind"];
  interface: Device["interfaces"][number];
  strips: Strip[];
  at: number;
  measure: Measure;
  lit: boolean;
  hands: Hands;
}

const Interface = memo(function Interface({ design, kind, interface: i, strips, at, measure, lit, hands }: InterfaceProps) {
  const { put, segments, select } = hands;
  return (
    <tbody ref={measure} data-index={at} data-interface={i.name} className={`hair border-b ${lit ? "bg-base-200" : ""}`}>
      <tr className="align-top">
        <td className="truncate py-1.5 pr-3">
          <UpSign up={i.up} />
          <button type="button" className="link-quiet font-mono font-medium" onClick={() => select(i.pointer)}>
            {i.name}
          </button>
          <span className="muted ml-1.5 text-[11px]">{i.kind}</span>
        </td>
        <td className="py-1.5 pr-3 font-mono text-[12px] break-words">
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
            <button type="button" className="link-quiet max-w-full truncate" title={i.segment} onClick={segments}>
              {i.segment}
            </button>
          ) : (
            <span className="muted">none</span>
          )}
        </td>
        <td className="py-1 pr-3">
          {kind === "firewall" ? (
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
          {kind === "outside" ? (
            <span className="muted">–</span>
          ) : (
            <QuickPick
              design={design}
              names="answers"
              at={i.pointer}
              label={`What ${i.name} answers`}
              value={i.answers}
              none={kind === "firewall" ? "nothing" : "everything"}
              onPick={(v) => put(i.pointer, "answers", v)}
            />
          )}
        </td>
        <td className="truncate py-1.5">{i.vrf}</td>
      </tr>
      {!i.up && (
        <tr>
          <td colSpan={6} className="text-error pb-1.5 pl-5">
            {i.reason}
          </td>
        </tr>
      )}
      {strips.map((s) => (
        <tr key={s.pointer + s.subnet}>
          <td colSpan={6} className="pb-2 pl-5">
            <LeaseStrip strip={s} select={select} />
          </td>
        </tr>
      ))}
    </tbody>
  );
});

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
