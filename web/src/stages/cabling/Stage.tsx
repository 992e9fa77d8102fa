import { Cable as CableIcon, Download, Plus } from "lucide-react";
import { useEffect, useReducer, useRef, useState } from "react";
import { useCabling, useSegmentDrawing } from "../../api/queries";
import { Segmented } from "../../parts/Segmented";
import type { StageProps } from "../../shell/parts";
import { ZoneLegend } from "../../theme/zones";
import { AddBox } from "./AddBox";
import { CableMany, type Ends } from "./CableMany";
import { zonesOf } from "./carried";
import { Drawing, LineSign } from "./Drawing";
import { exportSvg } from "./exportSvg";
import { HostHere } from "./HostHere";
import { layOut } from "./layout";
import { freeEnd, handsReducer, lineId, lookOf, plugging, type Placed, runsAcross, STATE_WORDS, turned } from "./model";
import { SegmentDrawing } from "./SegmentDrawing";
import { zonesDrawn } from "./segments";
import { BoxStrip, LineStrip } from "./Strips";
import { WhatIf } from "./WhatIf";

type Look = "cables" | "vlans" | "segments";

const SAYS: Record<Look, string> = {
  cables: "Drag from box to box to lead a cable.",
  vlans: "What each end of a cable carries, and the zones there.",
  segments: "Segments, their subnets, and the boxes that route between them.",
};

/** The site drawn from its cables; click a box or a line, plug cables in, move them, pull them. */
export function CablingStage(props: StageProps) {
  const { design, place, go, select, change } = props;
  const cabling = useCabling(design, place.failed);
  const turn = (parts: string[]) => go({ failed: turned(place.failed, parts) });
  const [placed, setPlaced] = useState<Placed | null>(null);
  const [hands, act] = useReducer(handsReducer, { kind: "empty" });
  const tool = place.step;
  const setTool = (step: "box" | "cables" | null) => go({ step });
  const [led, setLed] = useState<Ends & { turn: number }>({ one: "", two: "", turn: 0 });
  const [full, setFull] = useState<string | null>(null);
  const drawing = useRef<SVGSVGElement>(null);
  const first = useRef(true);
  const [room, setRoom] = useState({ width: 0, height: 0 });
  const [watcher] = useState(() => new ResizeObserver(([entry]) => entry && setRoom({ width: entry.contentRect.width, height: entry.contentRect.height })));
  const data = cabling.data;
  const look: Look = place.look === "vlans" || place.look === "segments" ? place.look : "cables";
  const told = look === "vlans";
  const across = data !== undefined && runsAcross(data);
  const above = useSegmentDrawing(design, look === "segments").data;
  useEffect(() => {
    let wanted = true;
    if (data) void layOut(data, told).then((p) => wanted && setPlaced(p));
    return () => {
      wanted = false;
    };
  }, [data, told]);
  useEffect(() => {
    const boxes = [...(drawing.current?.querySelectorAll("[data-tier]") ?? [])];
    boxes.sort((a, b) => Number(a.getAttribute("data-tier")) - Number(b.getAttribute("data-tier")));
    if (placed && first.current) {
      boxes[0]?.scrollIntoView({ block: "center", inline: "start" });
      if (!across) drawing.current?.parentElement?.scrollTo({ left: 0 }); // a site that hangs down is read from its left
    }
    if (placed && boxes.length > 0) first.current = false;
  }, [placed, room.width, across]);
  if (!data) return null;
  const names = data.boxes.flatMap((b) => [b.name, b.device]);
  if (data.boxes.length === 0)
    return (
      <div className="flex h-full flex-col items-center justify-center gap-4 p-6 pb-40">
        <div className="text-center" role="status">
          <h1 className="text-base font-medium">Nothing is drawn yet</h1>
          <p className="muted max-w-md">
            A site begins with its boxes: add the first, then the next, and lead cables between them. The program places everything.
          </p>
        </div>
        <AddBox design={design} change={change} names={names} large />
      </div>
    );
  const plug = (to: string) => {
    if (hands.kind !== "cable") return;
    change.mutate({ kind: "patch", patch: plugging(hands.from, to, hands.replaces) });
    act({ type: "dropped" });
  };
  const lead = (from: string, to: string) => {
    const [one, two] = [freeEnd(data, from), freeEnd(data, to)];
    setFull(one === null ? from : two === null ? to : null);
    if (one === null || two === null) return;
    setLed({ one, two, turn: led.turn + 1 });
    act({ type: "dropped" });
    setTool("cables");
  };
  const box = hands.kind === "box" ? data.boxes.find((b) => b.name === hands.box) : undefined;
  const line = hands.kind === "line" ? data.lines.find((l) => lineId(l) === hands.line) : undefined;
  return (
    <div className="flex h-full flex-col">
      <header className="flex flex-wrap items-center gap-4 px-4 pt-3 pb-2">
        <h1 className="text-lg font-semibold">Cabling</h1>
        <p className="muted min-w-0 flex-1 truncate">{SAYS[look]}</p>
        <Segmented
          label="What the drawing tells"
          options={[
            ["cables", "Plain"],
            ["vlans", "VLANs"],
            ["segments", "Segments"],
          ]}
          chosen={look}
          onChoose={(l) => go({ look: l === "cables" ? "" : l })}
        />
        <button
          type="button"
          className={`btn btn-sm ${tool === "box" ? "btn-neutral" : "btn-outline"}`}
          aria-pressed={tool === "box"}
          onClick={() => setTool(tool === "box" ? null : "box")}
        >
          <Plus size={14} aria-hidden="true" /> Box
        </button>
        <button
          type="button"
          className={`btn btn-sm ${tool === "cables" ? "btn-neutral" : "btn-outline"}`}
          aria-pressed={tool === "cables"}
          onClick={() => (setLed({ one: "", two: "", turn: led.turn + 1 }), setTool(tool === "cables" ? null : "cables"))}
        >
          <CableIcon size={14} aria-hidden="true" /> Cables
        </button>
        <button type="button" className="btn btn-ghost btn-sm" onClick={() => drawing.current && exportSvg(drawing.current, look)}>
          <Download size={14} aria-hidden="true" /> SVG
        </button>
      </header>
      <div
        className="min-h-0 flex-1 overflow-auto px-4"
        ref={(element) => {
          if (!element) return;
          watcher.observe(element);
          return () => watcher.unobserve(element);
        }}
      >
        {above && look === "segments" && room.width > 0 && <SegmentDrawing ref={drawing} data={above} width={room.width} select={select} />}
        {placed && look !== "segments" && room.width > 0 && (
          <Drawing
            ref={drawing}
            cabling={data}
            placed={placed}
            hands={hands}
            zones={told ? zonesOf(data) : null}
            scale={
              runsAcross(data)
                ? Math.max(0.8, Math.min(1, (room.width - 4) / placed.width))
                : Math.max(told ? 0.85 : 0.6, Math.min(1, (room.width - 4) / placed.width, (room.height - 6) / (placed.height + 8)))
            }
            onBox={(b) => {
              act({ type: "box-picked", box: b.name });
              if (hands.kind !== "cable") select(b.pointer);
            }}
            onLine={(l) => {
              act({ type: "line-picked", line: lineId(l) });
              select(l.pointers[0] ?? null);
            }}
            onJack={plug}
            onLead={lead}
          />
        )}
      </div>
      {hands.kind === "cable" && (
        <div className="bg-accent text-accent-content flex flex-wrap items-center gap-x-4 gap-y-1 px-4 py-2" role="status">
          <span className="flex-1">
            A cable hangs from <strong className="font-mono">{hands.from}</strong>. Click the free port it shall lead to.
          </span>
          {hands.replaces === null && <HostHere design={design} change={change} at={hands.from} names={names} onDone={() => act({ type: "dropped" })} />}
          <button type="button" className="link-quiet" onClick={() => act({ type: "dropped" })}>
            Drop it
          </button>
        </div>
      )}
      {tool === "box" && <AddBox design={design} change={change} names={names} />}
      {tool === "cables" && <CableMany key={led.turn} design={design} change={change} cabling={data} led={led} />}
      {full !== null && (
        <p role="alert" className="text-error flex gap-4 px-4 py-1">
          <span className="flex-1">
            <strong className="font-mono">{full}</strong> has no free port: add some from its bench, or move a cable away.
          </span>
          <button type="button" className="link-quiet" onClick={() => setFull(null)}>
            Dismiss
          </button>
        </p>
      )}
      {place.failed.length > 0 && <WhatIf {...props} />}
      {box && (
        <BoxStrip
          key={box.name}
          design={design}
          change={change}
          box={box}
          select={select}
          onFail={turn}
          onFree={(from) => act({ type: "end-plugged", from, replaces: null })}
        />
      )}
      {line && (
        <LineStrip
          line={line}
          onFail={turn}
          onPull={(pointer) => {
            change.mutate({ kind: "patch", patch: [{ op: "remove", path: pointer }] });
            act({ type: "dropped" });
          }}
          onMove={(from, replaces) => act({ type: "end-plugged", from, replaces })}
        />
      )}
      <footer className="hair muted flex flex-wrap gap-x-5 gap-y-1 border-t px-4 py-2 text-[12px]">
        {look === "vlans" && (
          <span>
            At each end: <b className="font-mono">U</b> untagged, <b className="font-mono">T</b> tagged, <b className="font-mono">P</b> PVID where it is
            another. Zones:
          </span>
        )}
        {look === "vlans" && <ZoneLegend zones={zonesOf(data)} />}
        {look === "segments" && above && <ZoneLegend zones={zonesDrawn(above)} />}
        {look !== "segments" &&
          [...new Set(data.lines.map(lookOf))].map((state) => (
            <span key={state} className="flex items-center gap-1.5">
              <svg width="34" height="14" viewBox="-17 -7 34 14" aria-hidden="true">
                <LineSign state={state} />
              </svg>
              {STATE_WORDS[state] ?? state}
            </span>
          ))}
      </footer>
    </div>
  );
}
