import { useLayoutEffect, useRef, useState } from "react";
import { usePacket, usePair } from "../../api/queries";
import { Segmented } from "../../parts/Segmented";
import type { StageProps } from "../../shell/parts";
import { labelPlace, layOut, packetOf, pathOf, type Profile, type Spot } from "./model";

const LEFT = 64;
const TALL = 68;
const HEAD = 30;
const WORDS: Record<string, string> = { link: "cable", vlan: "frame", gateway: "interface", route: "route", rule: "rule" };

/** The climb profile: one flow as a line over the layers, and its way back mirrored under it, like a hill over water. */
export function ProfileView({ design, place, go, select, shownPair }: StageProps & { shownPair: { from: string; to: string } | null }) {
  const pair = usePair(design, shownPair, place.question, place.passing);
  const box = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(720);
  const [told, setTold] = useState<Spot["point"] | null>(null);
  useLayoutEffect(() => {
    const element = box.current;
    if (!element) return;
    const watch = new ResizeObserver(() => setWidth(Math.max(480, element.clientWidth)));
    watch.observe(element);
    return () => watch.disconnect();
  }, []);
  const tried = usePacket(design, place.packet, place.question.asOf);
  const p = pair.data;
  const drawn = place.packet ? tried.data : p;
  const there = drawn?.there ?? null;
  const stopped = [...(drawn?.back?.points ?? []), ...(there?.points ?? [])].find((x) => x.stopped) ?? null;
  const caption = told ?? stopped;
  return (
    <section ref={box} className="hair mt-1 min-w-0 shrink-0 border-t px-4 pt-1 pb-2" aria-label="Climb profile">
      <TryPacket
        key={`${p?.sample?.join(" ") ?? ""} ${JSON.stringify(place.packet)}`}
        sample={p?.sample ?? null}
        place={place}
        go={go}
        problem={place.packet && tried.isError ? tried.error.message : null}
      />
      {drawn && there && (place.packet || (p?.sample && shownPair)) && (
        <>
          <header className="flex flex-wrap items-center gap-x-3">
            <h2 className="eyebrow">Climb profile</h2>
            <span className="font-mono text-[12px]">
              {place.packet && tried.data
                ? `${tried.data.source} → ${tried.data.target} ${tried.data.service}`
                : p?.sample
                  ? `${p.sample[0] ?? ""} → ${p.sample[1] ?? ""} ${p.sample[2] ?? ""}`
                  : ""}
            </span>
            {place.packet && <strong data-testid="outcome">{tried.data?.outcome}</strong>}
            {!place.packet && p?.verdict === "some" && (
              <Segmented
                small
                label="Which flow"
                options={[
                  ["stops", "one that stops"],
                  ["passes", "one that passes"],
                ]}
                chosen={place.passing ? "passes" : "stops"}
                onChoose={(flow) => go({ passing: flow === "passes" })}
              />
            )}
            <p className="min-w-0 flex-1 truncate text-right" aria-live="polite" title={caption?.text}>
              {caption && (
                <span className={caption.stopped ? "text-error font-medium" : "muted"}>
                  {caption.text.includes(caption.device) ? "" : `${caption.device}: `}
                  {caption.text}
                </span>
              )}
            </p>
          </header>
          <Chart profile={there} back={drawn.back ?? null} levels={drawn.levels} width={width - 32} select={select} tell={setTold} />
        </>
      )}
      {!place.packet && shownPair && p && !there && <p className="muted py-6 text-center">No packet can set out: {p.reason}.</p>}
    </section>
  );
}

interface TryProps {
  sample: string[] | null;
  place: StageProps["place"];
  go: StageProps["go"];
  problem: string | null;
}

/** Any packet: two addresses, segments or ports, and a service. */
function TryPacket({ sample, place, go, problem }: TryProps) {
  const [open, setOpen] = useState(place.packet !== null);
  const [from, setFrom] = useState(place.packet?.from ?? sample?.[0] ?? "");
  const [to, setTo] = useState(place.packet?.to ?? sample?.[1] ?? "");
  const [service, setService] = useState(place.packet?.service ?? sample?.[2] ?? "");
  if (!open)
    return (
      <button type="button" className="link-quiet float-right ml-3 text-[12px]" onClick={() => setOpen(true)}>
        Try a packet
      </button>
    );
  const field = "hair bg-base-100 h-6 w-40 rounded border px-1.5 font-mono text-[12px]";
  return (
    <form
      aria-label="Try a packet"
      className="mb-1 flex flex-wrap items-center gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        go({ packet: packetOf(from, to, service) });
      }}
    >
      <span className="eyebrow">Try a packet</span>
      <input className={field} aria-label="from" value={from} onChange={(e) => setFrom(e.target.value)} />
      <span aria-hidden="true">→</span>
      <input className={field} aria-label="to" value={to} onChange={(e) => setTo(e.target.value)} />
      <input className={`${field} !w-24`} aria-label="service" value={service} onChange={(e) => setService(e.target.value)} />
      <button type="submit" className="btn btn-primary btn-xs">
        Send it
      </button>
      <button
        type="button"
        className="link-quiet"
        onClick={() => {
          setOpen(false);
          go({ packet: null });
        }}
      >
        back to the pair
      </button>
      {problem && (
        <p role="alert" className="text-error basis-full">
          {problem}
        </p>
      )}
    </form>
  );
}

interface ChartProps {
  profile: Profile;
  back: Profile | null;
  levels: string[];
  width: number;
  select: (pointer: string) => void;
  tell: (point: Spot["point"] | null) => void;
}

function Chart({ profile, back, levels, width, select, tell }: ChartProps) {
  const inner = width - LEFT;
  const up = layOut(profile, inner, TALL, levels.length, false);
  const down = back ? layOut(back, inner, TALL, levels.length, true) : null;
  const water = HEAD + TALL + 11;
  const total = water + (down ? 12 + TALL + 18 : 20);
  return (
    <svg width={width} height={total} className="block" role="group" aria-label="Hops along, layers up">
      <g transform={`translate(${LEFT} ${HEAD})`}>
        <Ground levels={levels} width={inner} />
        <Bands bands={up.bands} height={TALL + 10} label={-19} />
        <Line spots={up.spots} tone="there" select={select} tell={tell} />
      </g>
      <line x1="0" x2={width} y1={water} y2={water} className="stroke-base-content/50" strokeDasharray="2 3" />
      <text x="0" y={HEAD - 19} className="fill-base-content text-[11px] font-semibold">
        there
      </text>
      {down ? (
        <g transform={`translate(${LEFT} ${water + 12})`}>
          <text x={-LEFT} y={TALL + 4} className="fill-base-content text-[11px] font-semibold">
            back
          </text>
          <Bands bands={down.bands} height={TALL + 8} label={null} />
          <Line spots={down.spots.map((s) => ({ ...s, y: TALL - s.y }))} tone="back" select={select} tell={tell} />
        </g>
      ) : (
        <text x={LEFT} y={water + 14} className="fill-base-content text-[11px] opacity-60">
          No way back to show: the packet does not arrive.
        </text>
      )}
    </svg>
  );
}

function Ground({ levels, width }: { levels: string[]; width: number }) {
  return levels.map((level, k) => {
    const y = TALL * (1 - k / (levels.length - 1));
    return (
      <g key={level}>
        <line x1="0" x2={width} y1={y} y2={y} className="stroke-base-300" />
        <text x="-8" y={y + 3.5} textAnchor="end" className="fill-base-content text-[11px] opacity-70">
          {WORDS[level] ?? level}
        </text>
      </g>
    );
  });
}

function Bands({ bands, height, label }: { bands: ReturnType<typeof layOut>["bands"]; height: number; label: number | null }) {
  return bands.map((band, k) => (
    <g key={`${band.device} ${band.from}`}>
      {k % 2 === 0 && (
        <rect x={band.from} width={band.to - band.from} y={label === null ? -9 : -13} height={height} className="fill-base-content opacity-[0.035]" />
      )}
      {label !== null && (
        <text x={(band.from + band.to) / 2} y={label} textAnchor="middle" className="fill-base-content text-[11px] font-semibold">
          {band.device.length * 6.2 > band.to - band.from ? `${band.device.slice(0, Math.max(2, Math.floor((band.to - band.from) / 6.6)))}…` : band.device}
        </text>
      )}
    </g>
  ));
}

function Line({ spots, tone, select, tell }: { spots: Spot[]; tone: "there" | "back"; select: ChartProps["select"]; tell: ChartProps["tell"] }) {
  const colour = tone === "there" ? "stroke-primary" : "stroke-secondary";
  return (
    <>
      <path d={pathOf(spots)} fill="none" className={colour} strokeWidth="2" strokeLinejoin="round" strokeDasharray={tone === "back" ? "5 3" : undefined} />
      {spots.map((s, k) => (
        <g key={`${k} ${s.point.text}`}>
          <a
            href={`#${s.point.pointer}`}
            aria-label={`${s.point.device}: ${s.point.text}; ${s.point.label}`}
            data-stopped={s.point.stopped || undefined}
            className="group cursor-pointer"
            onClick={(e) => {
              e.preventDefault();
              select(s.point.pointer);
            }}
            onMouseEnter={() => tell(s.point)}
            onMouseLeave={() => tell(null)}
            onFocus={() => tell(s.point)}
            onBlur={() => tell(null)}
          >
            <title>{s.point.text}</title>
            <circle cx={s.x} cy={s.y} r="10" className="fill-transparent" />
            {s.point.stopped ? (
              <path d={`M${s.x - 5} ${s.y - 5}l10 10m0 -10l-10 10`} className="stroke-error" strokeWidth="3" strokeLinecap="round" />
            ) : (
              <circle cx={s.x} cy={s.y} r="3.600" className={`fill-base-100 group-hover:fill-accent group-focus:fill-accent ${colour}`} strokeWidth="2" />
            )}
            {(s.point.stage !== "cable" || s.point.stopped) && (
              <text
                {...labelPlace(spots, k, tone === "back")}
                className={`text-[10.5px] ${s.point.stopped ? "fill-error font-semibold" : "fill-base-content opacity-80"}`}
              >
                {s.point.label}
              </text>
            )}
          </a>
        </g>
      ))}
    </>
  );
}
