import { useState } from "react";
import type { StageProps } from "../../shell/parts";
import type { Box, Line } from "./model";
import { STATE_WORDS } from "./model";
import { PortTools } from "./PortTools";

/** The ports of one box, as from the front: free ones take a cable, the others open on the bench side. */
export function BoxStrip({
  box,
  design,
  change,
  select,
  onFree,
  onFail,
}: Pick<StageProps, "design" | "change"> & { box: Box; select: (pointer: string) => void; onFree: (from: string) => void; onFail: (parts: string[]) => void }) {
  const [chosen, setChosen] = useState<string[] | null>(null);
  const many = ["switch", "router", "firewall"].includes(box.kind);
  const pick = (name: string) => setChosen((now) => (now?.includes(name) ? now.filter((n) => n !== name) : [...(now ?? []), name]));
  return (
    <section className="hair border-t px-4 py-2" aria-label={`Ports of ${box.name}`}>
      <p className="muted mb-1 flex items-baseline gap-4 text-[12px]">
        <span className="flex-1">
          <strong className="text-base-content">{box.name}</strong> —{" "}
          {chosen ? "click the ports you want." : "hollow ports are free: click one to plug a cable in."}
        </span>
        {many && (
          <button
            type="button"
            className="link-quiet text-base-content text-[13px]"
            aria-pressed={chosen !== null}
            onClick={() => setChosen(chosen ? null : [])}
          >
            {chosen ? "choose none" : "choose several"}
          </button>
        )}
        <button type="button" className="link-quiet text-base-content text-[13px]" onClick={() => onFail([box.name])}>
          {box.failed ? "restore it" : "fail it"}
        </button>
      </p>
      <ul className="flex flex-wrap gap-1">
        {box.jacks.map((jack) => (
          <li key={jack.name}>
            <button
              type="button"
              aria-label={`${box.name}:${jack.name}, ${jack.free ? "free" : jack.up ? "up" : jack.reason}`}
              title={[
                `${box.name}:${jack.name}`,
                jack.mode,
                jack.bundle ? `in bundle ${jack.bundle}` : "",
                jack.free ? "free" : jack.up ? "up" : jack.reason,
                jack.note ?? "",
              ]
                .filter(Boolean)
                .join(" · ")}
              aria-pressed={chosen ? chosen.includes(jack.name) : undefined}
              onClick={() => (chosen ? pick(jack.name) : jack.free ? onFree(`${box.name}:${jack.name}`) : select(jack.pointer))}
              className={`h-7 min-w-7 cursor-pointer rounded border px-1 font-mono text-[12px] ${chosen?.includes(jack.name) ? "outline-accent outline-2" : ""} ${jack.free ? "border-base-content/40 border-dashed" : jack.up ? "bg-primary text-primary-content border-primary" : "border-error text-error"}`}
            >
              {jack.name}
            </button>
          </li>
        ))}
      </ul>
      {chosen && <PortTools design={design} change={change} box={box} chosen={chosen} onDone={() => setChosen(null)} />}
    </section>
  );
}

interface LineProps {
  line: Line;
  onFail: (parts: string[]) => void;
  onPull: (pointer: string) => void;
  onMove: (from: string, replaces: string) => void;
}

/** The cables of one line: pull one, or take one end and lead it elsewhere. */
export function LineStrip({ line, onFail, onPull, onMove }: LineProps) {
  const [a = "", b = ""] = line.ends;
  return (
    <section className="hair border-t px-4 py-2" aria-label="Cables of the line">
      <p className="mb-1">
        <strong>{line.bundle ? `Bundle ${line.bundle}` : "Cable"}</strong>: {STATE_WORDS[line.state] ?? line.state}
        {line.reason && line.state !== "standby" ? `. ${line.reason}.` : "."}{" "}
        {line.names.length > 1 && (
          <button type="button" className="link-quiet" onClick={() => onFail(line.names)}>
            {line.failed.length === line.names.length ? "restore all" : "fail all"}
          </button>
        )}
      </p>
      <ul>
        {line.pointers.map((pointer, k) => {
          const ends = [`${a}:${line.ports[0]?.[k]}`, `${b}:${line.ports[1]?.[k]}`] as const;
          return (
            <li key={pointer} className="flex items-center gap-4 py-0.5">
              <span className="font-mono text-[12px]">
                {ends[0]} — {ends[1]}
              </span>
              {[0, 1].map((side) => (
                <button key={side} type="button" className="link-quiet" onClick={() => onMove(ends[side === 0 ? 1 : 0], pointer)}>
                  move the end at {ends[side === 0 ? 0 : 1]}
                </button>
              ))}
              <button type="button" className="link-quiet" onClick={() => onFail([line.names[k] ?? ""])}>
                {line.failed.includes(line.names[k] ?? "") ? "restore it" : "fail it"}
              </button>
              <button type="button" className="link-quiet text-error" onClick={() => onPull(pointer)}>
                pull it
              </button>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
