import type { Ref } from "react";
import { ZoneSign } from "../../theme/zones";
import { broken, type Carried, rowsOf, zonesAt } from "./carried";
import { type Box, type Cabling, type Hands, type Line, lineId, lookOf, middle, type Placed, STATE_WORDS } from "./model";
import { Sheet } from "./Sheet";
import { type Lead, useLeading } from "./useLeading";

interface Props {
  ref: Ref<SVGSVGElement>;
  cabling: Cabling;
  placed: Placed;
  hands: Hands;
  /** The zones to tell at the ends of lines, with their VLANs; null = neither. */
  zones: string[] | null;
  /** Drawn size over natural size. */
  scale: number;
  onBox: (box: Box) => void;
  onLine: (line: Line) => void;
  /** A free port was clicked while a cable hangs from another. */
  onJack: (end: string) => void;
  /** A cable was dragged from one box or free port to another. */
  onLead: (from: string, to: string) => void;
}

/** Boxes and lines at the places the layout gave them. */
export function Drawing({ ref, cabling, placed, hands, zones, scale, onBox, onLine, onJack, onLead }: Props) {
  const leading = useLeading(onLead);
  return (
    <Sheet ref={ref} label="The site" placed={placed} scale={scale} hands={leading.hands}>
      {cabling.lines.map((line) => {
        const points = placed.lines[lineId(line)];
        return (
          points && (
            <LineMark
              key={lineId(line)}
              line={line}
              zones={zones}
              points={points}
              tooth={placed.teeth.includes(lineId(line))}
              picked={hands.kind === "line" && hands.line === lineId(line)}
              onPick={() => onLine(line)}
            />
          )
        );
      })}
      {cabling.boxes.map((box) => {
        const at = placed.boxes[box.name];
        return (
          at && (
            <BoxMark
              key={box.name}
              box={box}
              at={at}
              picked={hands.kind === "box" && hands.box === box.name}
              offering={hands.kind === "cable"}
              onPick={() => onBox(box)}
              onJack={(jack) => onJack(`${box.name}:${jack}`)}
            />
          )
        );
      })}
      {leading.lead && <LeadMark lead={leading.lead} />}
    </Sheet>
  );
}

/** A cable that is being led somewhere. */
function LeadMark({ lead: { start, now } }: { lead: Lead }) {
  return (
    <g className="pointer-events-none" data-testid="lead">
      <path d={`M${start.x} ${start.y}L${now.x} ${now.y}`} className="stroke-accent" strokeWidth="2" strokeDasharray="5 3" fill="none" />
      <circle cx={start.x} cy={start.y} r="3.500" className="fill-accent" />
      <circle cx={now.x} cy={now.y} r="3.500" className="fill-accent" />
    </g>
  );
}

interface BoxProps {
  box: Box;
  at: { x: number; y: number; width: number; height: number };
  picked: boolean;
  offering: boolean;
  onPick: () => void;
  onJack: (jack: string) => void;
}

function BoxMark({ box, at, picked, offering, onPick, onJack }: BoxProps) {
  const free = box.jacks.filter((j) => j.free);
  return (
    <g transform={`translate(${at.x} ${at.y})`}>
      <g
        role="button"
        tabIndex={0}
        aria-label={`${box.kind.replace("-", " ")} ${box.name}${box.failed ? ", has failed" : box.standby ? ", stands by" : ""}`}
        data-box={box.name}
        data-tier={box.tier}
        className="cursor-pointer"
        onClick={onPick}
        onKeyDown={(e) => e.key === "Enter" && onPick()}
      >
        <rect
          width={at.width}
          height={at.height}
          rx={box.kind === "endpoint" ? at.height / 2 : box.kind === "outside" ? 14 : 4}
          className={`fill-base-100 ${picked ? "stroke-accent" : box.failed ? "stroke-error" : box.standby ? "stroke-base-content/40" : "stroke-base-content/75"}`}
          strokeWidth={picked ? 2.4 : box.kind === "firewall" ? 2 : 1.2}
          strokeDasharray={box.standby ? "4 3" : undefined}
        />
        <KindSign kind={box.kind} middle={at.height / 2} />
        {box.failed && (
          <path d={`M2 2 ${at.width - 2} ${at.height - 2}M${at.width - 2} 2 2 ${at.height - 2}`} className="stroke-error" strokeWidth="1.400" opacity="0.55" />
        )}
      </g>
      <g className="pointer-events-none">
        <text
          x={28}
          y={at.height / 2 + (box.standby || box.failed ? -2 : 4.5)}
          className={`fill-base-content text-[12.5px] ${box.kind === "endpoint" ? "" : "font-semibold"}`}
        >
          {box.name}
        </text>
        {(box.standby || box.failed) && (
          <text x={28} y={at.height / 2 + 11} className={`text-[10.5px] ${box.failed ? "fill-error font-semibold" : "fill-base-content opacity-65"}`}>
            {box.failed ? "has failed" : "stands by"}
          </text>
        )}
      </g>
      {offering &&
        free.map((jack, k) => (
          <g
            key={jack.name}
            transform={`translate(${6 + k * 20} ${at.height + 3})`}
            role="button"
            tabIndex={0}
            aria-label={`free port ${box.name}:${jack.name}`}
            data-jack={`${box.name}:${jack.name}`}
            className="cursor-pointer"
            onClick={() => onJack(jack.name)}
            onKeyDown={(e) => e.key === "Enter" && onJack(jack.name)}
          >
            <rect width="18" height="15" rx="2" className="fill-base-100 stroke-accent" strokeDasharray="2 2" />
            <text x="9" y="11" textAnchor="middle" className="fill-base-content font-mono text-[9.500px]">
              {jack.name}
            </text>
          </g>
        ))}
    </g>
  );
}

/** What kind of box it is: a wave outside, a fork for routers, two posts and a bar for firewalls, a comb for switches, a star for hubs, a mast with waves for access points, a dot for hosts. */
export function KindSign({ kind, middle }: { kind: string; middle: number }) {
  return (
    <g transform={`translate(8 ${middle - 7})`} fill="none" className="stroke-base-content" strokeWidth="1.500" strokeLinecap="round" strokeLinejoin="round">
      {kind === "outside" && <path d="M0 5c2-3 4-3 6 0s4 3 6 0M0 10c2-3 4-3 6 0s4 3 6 0" />}
      {kind === "router" && <path d="M6 13V7M6 7 1 2M6 7l5-5" />}
      {kind === "firewall" && <path d="M1.500 1v12M10.500 1v12M1.500 7h9" />}
      {kind === "switch" && <path d="M0 3h12M1.500 3v8M6 3v8M10.500 3v8" />}
      {kind === "hub" && <path d="M6 2v10M1 4.500l10 5M11 4.500l-10 5" />}
      {kind === "access-point" && <path d="M6 13V9.500M3 7.500a4 4 0 0 1 6 0M.8 4.800a7.200 7.200 0 0 1 10.400 0" />}
      {kind === "endpoint" && <circle cx="6" cy="7" r="3.200" />}
    </g>
  );
}

const TONE: Record<string, string> = {
  up: "stroke-primary",
  down: "stroke-error",
  part: "stroke-error",
  blocked: "stroke-base-content/55",
  standby: "stroke-base-content/45",
  inline: "stroke-secondary",
  heartbeat: "stroke-accent",
  wireless: "stroke-primary",
  tunnel: "stroke-secondary",
  overlay: "stroke-secondary",
};
const DASH: Record<string, string> = { standby: "2 4", heartbeat: "7 3 1.500 3", blocked: "9 3", wireless: "6 4", tunnel: "14 5", overlay: "10 3 2 3" };

interface LineProps {
  line: Line;
  zones: string[] | null;
  points: { x: number; y: number }[];
  /** It is one of many hosts under one box: named by the port of the box, at the host. */
  tooth: boolean;
  picked: boolean;
  onPick: () => void;
}

function LineMark({ line, zones, points, tooth, picked, onPick }: LineProps) {
  const path = points.map((p, k) => `${k ? "L" : "M"}${p.x} ${p.y}`).join("");
  const mid = tooth
    ? middle(points[0] && points.at(-1) && (points.at(-1)?.x ?? 0) > (points.at(-2)?.x ?? 0) ? points.slice(-2) : points.slice(0, 2))
    : middle(points);
  const [first, last] = [points[0], points.at(-1)];
  const count = line.pointers.length;
  return (
    <g>
      <g
        role="button"
        tabIndex={0}
        aria-label={`${line.ends.join(" to ")}: ${STATE_WORDS[line.state] ?? line.state}`}
        data-line={line.ends.join("--")}
        data-state={line.state}
        className="cursor-pointer"
        onClick={onPick}
        onKeyDown={(e) => e.key === "Enter" && onPick()}
      >
        <title>
          {[[0, 1].map((k) => [line.ends[k], line.ports[k]?.join(",")].filter(Boolean).join(":")).join(" — "), STATE_WORDS[line.state], line.reason]
            .filter(Boolean)
            .join(" · ")}
        </title>
        <path d={path} fill="none" stroke="transparent" strokeWidth="12" />
        <path
          d={path}
          fill="none"
          className={picked ? "stroke-accent" : TONE[lookOf(line)]}
          strokeWidth={line.bundle ? 5.5 : 1.7}
          strokeDasharray={DASH[lookOf(line)]}
          strokeLinejoin="round"
        />
        {line.bundle && <path d={path} fill="none" className="stroke-base-100" strokeWidth="2.400" strokeLinejoin="round" />}
        <g transform={`translate(${mid.x} ${mid.y})`}>
          <MidSign state={line.state} />
        </g>
      </g>
      {line.bundle && (
        <text x={mid.x + 8} y={mid.y - 4} className="fill-base-content pointer-events-none text-[10px] opacity-75">
          ×{count}
        </text>
      )}
      {tooth && <ToothLabel line={line} points={points} told={zones !== null} />}
      {!tooth && first && <PortLabel at={first} next={points[1] ?? first} text={line.ports[0]?.join(",") ?? ""} end={line.carried[0]} zones={zones} />}
      {!tooth && last && <PortLabel at={last} next={points.at(-2) ?? last} text={line.ports[1]?.join(",") ?? ""} end={line.carried[1]} zones={zones} />}
    </g>
  );
}

function ToothLabel({ line, points, told }: { line: Line; points: { x: number; y: number }[]; told: boolean }) {
  const [a, b] = [points.at(-1), points[0]];
  const end = (a?.x ?? 0) > (points.at(-2)?.x ?? 0) ? a : b;
  const port = end === a ? line.ports[0] : line.ports[1];
  return (
    end && (
      <text x={end.x - 3} y={end.y - 3} textAnchor="end" className="fill-base-content font-mono text-[9px] opacity-70">
        {told ? rowsOf(line.carried[end === a ? 0 : 1])[0] : port?.join(",")}
      </text>
    )
  );
}

interface LabelProps {
  at: { x: number; y: number };
  next: { x: number; y: number };
  text: string;
  end: Carried | undefined;
  zones: string[] | null;
}

/** The port at the end of a line; on demand what it carries and the signs of its zones, a row each, away from the box. */
function PortLabel({ at, next, text, end, zones }: LabelProps) {
  const level = Math.abs(next.x - at.x) > Math.abs(next.y - at.y);
  const [right, down] = [next.x > at.x, next.y > at.y];
  const whole = rowsOf(end);
  const rows = whole.flatMap(broken);
  const place = level
    ? { x: at.x + (right ? 4 : -4), y: at.y - 3, anchor: right ? ("start" as const) : ("end" as const) }
    : { x: at.x + 4, y: at.y + (down ? 11 : -4), anchor: "start" as const };
  return (
    <g className="pointer-events-none">
      <text x={place.x} y={place.y} textAnchor={place.anchor} className="fill-base-content font-mono text-[9.500px] opacity-70">
        {text}
      </text>
      {zones && (
        <>
          {zonesAt(end).map((zone, k) => (
            <g key={zone} transform={`translate(${place.x + (place.anchor === "start" ? 1 : -1) * (text.length * 6 + 8 + k * 11)} ${place.y - 3.5})`}>
              <ZoneSign zone={zone} zones={zones} />
            </g>
          ))}
          {rows.map((row, k) => (
            <text
              key={row}
              xmlSpace="preserve"
              x={place.x}
              y={place.y + (level || down ? (k + 1) * 11 : (k - rows.length) * 11)}
              textAnchor={place.anchor}
              className="fill-base-content font-mono text-[9.500px]"
              data-carried={row}
            >
              <title>{whole.join(" · ")}</title>
              {row}
            </text>
          ))}
        </>
      )}
    </g>
  );
}

/** The state of a line by a shape on it, so that no colour is needed to tell it. */
function MidSign({ state }: { state: string }) {
  if (state === "down") return <path d="M-5-5 5 5M5-5-5 5" className="stroke-error" strokeWidth="2.400" strokeLinecap="round" />;
  if (state === "part") return <path d="M-4 0h8M0-4v8" className="stroke-error" strokeWidth="2.400" transform="rotate(45) scale(0.8)" />;
  if (state === "blocked") return <path d="M-5-3.500H5M-5 3.500H5" className="stroke-base-content" strokeWidth="1.800" />;
  if (state === "inline") return <path d="M0-5 5 0 0 5-5 0z" className="fill-base-100 stroke-secondary" strokeWidth="1.500" />;
  return null;
}

/** A short piece of a line with its sign, for the legend. */
export function LineSign({ state }: { state: string }) {
  return (
    <>
      <path d="M-16 0H16" className={TONE[state]} strokeWidth="1.800" strokeDasharray={DASH[state]} />
      <g transform="scale(0.9)">
        <MidSign state={state} />
      </g>
    </>
  );
}
