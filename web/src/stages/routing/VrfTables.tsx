import { memo, useState } from "react";
import type { Schemas } from "../../api/client";
import { Gap } from "../../parts/Gap";
import { type Measure, useLong } from "../../parts/useLong";
import type { StageProps } from "../../shell/parts";
import { MakeButton } from "../../shell/thing/MakeButton";
import { type Device, type Route, shownRoutes, verdicts } from "./model";

type Props = StageProps & { device: Device; lookup: Schemas["LookupView"] | undefined };

/** The table of every VRF of a box: what is connected, what is static, what is not in force, and why. */
export function VrfTables(props: Props) {
  const { device, lookup, select, place } = props;
  const [own, setOwn] = useState(false);
  const said = verdicts(lookup);
  return (
    <>
      {device.vrfs.map((vrf) => (
        <section key={vrf.name} aria-label={`VRF ${vrf.name}`} className="mt-3">
          <header className="flex flex-wrap items-baseline gap-x-3">
            <h2 className="font-semibold">VRF {vrf.name}</h2>
            {vrf.leaks.length > 0 && <p className="text-[12px]">Only these routes lead into another VRF: {vrf.leaks.join("; ")}.</p>}
            {!device.routes && <p className="muted text-[12px]">{device.name} does not route; it uses this table for what it sends itself.</p>}
            <label className="muted ml-auto flex cursor-pointer items-center gap-1 text-[12px]">
              <input type="checkbox" className="checkbox checkbox-xs" checked={own} onChange={(e) => setOwn(e.target.checked)} />
              its own addresses
            </label>
            <MakeButton {...props} kind="route" at={vrf.pointer ?? device.pointer} owner={device.kind} label="route" />
          </header>
          <Routes routes={shownRoutes(vrf.routes, own)} said={said} at={place.at} select={select} />
        </section>
      ))}
    </>
  );
}

/** How high a route is until it is measured. */
const HEIGHT = 29;

interface RoutesProps {
  routes: Route[];
  said: Map<string, Said>;
  /** What is selected. */
  at: string | null;
  select: StageProps["select"];
}

/** The routes of one table, of a long one those in sight. */
function Routes({ routes, said, at, select }: RoutesProps) {
  const { frame, drawn, above, below, measure } = useLong<HTMLTableSectionElement>({
    count: routes.length,
    heightOf: () => HEIGHT,
    lit: routes.findIndex((r) => r.pointer === at),
  });
  return (
    <table className="mt-1 w-full table-fixed border-collapse" aria-rowcount={routes.length + 1}>
      <thead>
        <tr className="hair border-b text-left">
          <Head className="w-[11.500rem]">to</Head>
          <Head className="w-[13rem]">goes to</Head>
          <Head className="w-[6.500rem]">origin</Head>
          <Head className="w-[4.500rem] text-right">pref/metric</Head>
          <Head className="pl-4">state</Head>
        </tr>
      </thead>
      <tbody ref={frame}>
        <Gap height={above} columns={5} />
        {drawn.flatMap((k) => {
          const r = routes[k];
          if (!r) return [];
          return (
            <Row
              key={r.pointer + r.to + r.origin}
              at={k}
              measure={measure}
              route={r}
              said={said.get(r.pointer)}
              asked={said.size > 0}
              lit={at === r.pointer}
              select={select}
            />
          );
        })}
        <Gap height={below} columns={5} />
      </tbody>
    </table>
  );
}

function Head({ className, children }: { className: string; children: string }) {
  return (
    <th scope="col" className={`eyebrow py-1 font-semibold ${className}`}>
      {children}
    </th>
  );
}

/** How a route was learnt, in a column: the whole word stands in its title. */
const SHORT: Record<string, string> = { "intra-area": "intra", "inter-area": "inter", "external-1": "ext 1", "external-2": "ext 2" };

interface Said {
  wins: boolean;
  why: string;
}

interface RowProps {
  route: Route;
  /** Its place in the table, and what measures it. */
  at: number;
  measure: Measure;
  /** What the lookup says of it; undefined = it does not hold the address. */
  said: Said | undefined;
  asked: boolean;
  lit: boolean;
  select: StageProps["select"];
}

const Row = memo(function Row({ route, at, measure, said, asked, lit, select }: RowProps) {
  const dim = asked && !said ? "opacity-45" : "";
  return (
    <tr
      ref={measure}
      data-index={at}
      aria-rowindex={at + 2}
      className={`hair border-b ${dim} ${said?.wins ? "bg-accent/20" : lit ? "bg-base-200" : ""}`}
      data-route={route.to}
      data-state={route.state}
    >
      <td className="py-1 pr-3">
        <button type="button" className="link-quiet truncate font-mono text-[12px]" onClick={() => select(route.pointer)}>
          {route.to}
        </button>
      </td>
      <td className="truncate py-1 pr-3 font-mono text-[12px]" title={route.goes_to}>
        {route.goes_to}
        {route.looks_at && (
          <span className="muted block truncate font-sans text-[11px]" title={route.looks_at}>
            {route.looks_at}
          </span>
        )}
      </td>
      <td className="truncate py-1 pr-3" title={route.learnt ?? undefined}>
        {route.origin}
        {route.learnt && <span className="muted text-[11px]"> {SHORT[route.learnt] ?? route.learnt}</span>}
      </td>
      <td className="py-1 text-right font-mono text-[12px]">
        {["static", "ospf", "learned"].includes(route.origin) ? `${route.preference}/${route.metric}` : ""}
      </td>
      <td className="py-1 pl-4">
        <StateMark state={route.state} />{" "}
        {said ? (
          <strong className="font-medium">{said.why}</strong>
        ) : route.state === "inactive" ? (
          <span className="text-error">{route.reason}</span>
        ) : (
          <span className={route.state === "in force" ? "muted" : ""}>{route.looks_at ? "tried first" : route.state}</span>
        )}
      </td>
    </tr>
  );
});

/** Filled = in force, two = shared, hollow = stands by, crossed = not in force. */
function StateMark({ state }: { state: string }) {
  return (
    <svg width="14" height="12" viewBox="0 0 14 12" className="inline" aria-hidden="true" fill="none">
      {state === "in force" && <path d="M3 6h7M7.500 3l3 3-3 3" className="stroke-primary" strokeWidth="1.800" />}
      {state === "shares" && <path d="M2.500 3.500h8M2.500 8.500h8" className="stroke-primary" strokeWidth="1.800" />}
      {state === "stands by" && <path d="M3 6h7" className="stroke-secondary" strokeWidth="1.600" strokeDasharray="2 2" />}
      {state === "inactive" && <path d="M3.500 2.500l7 7M10.500 2.500l-7 7" className="stroke-error" strokeWidth="1.700" />}
    </svg>
  );
}
