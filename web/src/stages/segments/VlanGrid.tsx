import { type KeyboardEvent, useEffect, useRef, useState } from "react";
import type { StageProps } from "../../shell/parts";
import { MEMBERSHIP_WORDS, MembershipSign, type Membership, StateSign } from "../../theme/signs";
import { cellsOf, type Column, columnsOf, type Grid, nextCell, selectedSpots, type Spot, spotsOf, STATE_WORDS, step, type Stroke, type Wanted, wantedBy } from "./model";

type Props = StageProps & { grid: Grid };

/** The grid itself: one tab stop, arrows to move, keys or clicks to set. */
export function VlanGrid({ grid, place, select, change }: Props) {
  const columns = columnsOf(grid);
  const [focus, setFocus] = useState<Spot>({ row: 0, column: 0 });
  const [lit, setLit] = useState<number | null>(null);
  const [anchor, setAnchor] = useState<Spot | null>(null);
  const table = useRef<HTMLTableElement>(null);
  const [stroke, setStroke] = useState<Stroke | null>(null);
  const set = (spots: Spot[], wanted: Wanted) => {
    const cells = cellsOf(grid, columns, spots, wanted);
    if (cells.length > 0) change.mutate({ kind: "cells", cells });
  };
  useEffect(() => {
    if (!stroke) return;
    const end = () => {
      set(spotsOf(stroke), stroke.wanted);
      setStroke(null);
    };
    window.addEventListener("pointerup", end, { once: true });
    return () => window.removeEventListener("pointerup", end);
  });
  const painted = new Set(stroke ? spotsOf(stroke).map((s) => `${s.row} ${s.column}`) : selectedSpots(anchor, focus).map((s) => `${s.row} ${s.column}`));
  const onKeyDown = (event: KeyboardEvent) => {
    const next = step(focus, event.key, grid.rows.length, columns.length);
    if (next) setAnchor(event.shiftKey ? (anchor ?? focus) : null);
    const wanted = wantedBy(event.key);
    if (next) {
      event.preventDefault();
      setFocus(next);
      table.current?.querySelector<HTMLElement>(`[data-spot="${next.row} ${next.column}"]`)?.focus();
    } else if (wanted && !event.ctrlKey && !event.metaKey) {
      event.preventDefault();
      set(anchor ? selectedSpots(anchor, focus) : [focus], wanted);
    } else if (event.key === "Enter") {
      event.preventDefault();
      const column = columns[focus.column];
      if (column) select(column.pointer);
    }
  };
  return (
    <div className="min-h-0 flex-1 overflow-auto" onMouseLeave={() => setLit(null)}>
      <table ref={table} role="grid" aria-label="VLANs and ports" className="border-separate border-spacing-0" onKeyDown={onKeyDown}>
        <thead>
          <tr>
            <th className="bg-base-100 hair sticky top-0 left-0 z-30 h-6 border-r" />
            {grid.devices.map((d) => (
              <th key={d.name} colSpan={d.ports.length} scope="colgroup" className="bg-base-100 hair sticky top-0 z-20 h-6 border-r border-l px-1 text-left font-semibold">
                <button type="button" className="link-quiet max-w-full truncate" onClick={() => select(d.pointer)}>
                  {d.name}
                </button>
              </th>
            ))}
          </tr>
          <tr>
            <th scope="col" className="bg-base-100 hair sticky top-6 left-0 z-30 border-r border-b px-3 pb-1 text-left align-bottom">
              <span className="eyebrow">VLAN, and its segments</span>
            </th>
            {columns.map((c) => (
              <PortHead key={c.pointer + c.device} column={c} lit={place.at === c.pointer} onPick={() => select(c.pointer)} />
            ))}
          </tr>
        </thead>
        <tbody>
          {grid.rows.map((row, r) => (
            <tr key={row.vlan}>
              <th scope="row" className={`bg-base-100 hair sticky left-0 z-10 border-r border-b px-3 text-left font-normal ${lit === r ? "!bg-base-200" : ""}`}>
                <div className="flex h-8 w-60 items-center gap-2">
                  <span className="w-8 text-right font-mono">{row.vlan}</span>
                  <button type="button" className="link-quiet min-w-0 flex-1 truncate text-left font-medium" title={row.note ?? row.name} onClick={() => select(row.pointer)}>
                    {row.name}
                  </button>
                  <span
                    className={`flex items-center gap-1 truncate text-[11px] ${row.state === "islands" ? "text-error font-semibold" : "muted"}`}
                    title={row.segments.join(", ") || STATE_WORDS[row.state]}
                  >
                    {row.state === "islands" ? `${row.segments.length} islands` : row.state === "whole" ? "" : row.state}
                    <StateSign state={row.state} />
                    <span className="sr-only">{STATE_WORDS[row.state]}</span>
                  </span>
                </div>
              </th>
              {columns.map((c, k) => (
                <Cell
                  key={c.pointer + c.device}
                  column={c}
                  vlan={row.vlan}
                  state={(row.cells[k] ?? "") as Membership}
                  spot={`${r} ${k}`}
                  lit={lit === r || place.at === c.pointer}
                  stop={focus.row === r && focus.column === k}
                  onFocus={() => setFocus({ row: r, column: k })}
                  painted={painted.has(`${r} ${k}`) ? (stroke?.wanted ?? "chosen") : null}
                  onHover={() => {
                    setLit(r);
                    if (stroke) setStroke({ ...stroke, to: { row: r, column: k } });
                  }}
                  onPress={() => {
                    setAnchor(null);
                    setStroke({ from: { row: r, column: k }, to: { row: r, column: k }, wanted: nextCell((row.cells[k] ?? "") as Membership) });
                  }}
                />
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function PortHead({ column, lit, onPick }: { column: Column; lit: boolean; onPick: () => void }) {
  const head = useRef<HTMLTableCellElement>(null);
  useEffect(() => {
    if (lit) head.current?.scrollIntoView({ inline: "center", block: "nearest" });
  }, [lit]);
  const about = [column.far ? `leads to ${column.far}` : "no cable", column.up ? "up" : column.reason, column.members.length ? `bundle of ports ${column.members.join(", ")}` : "", column.note ?? ""];
  return (
    <th ref={head} scope="col" className={`hair sticky top-6 z-20 border-b align-bottom ${column.last ? "border-r" : ""} ${lit ? "bg-base-200" : "bg-base-100"}`}>
      <button type="button" onClick={onPick} title={about.filter(Boolean).join(" · ")} className="flex h-20 w-7 cursor-pointer items-end justify-center pb-1">
        <span
          className={`[writing-mode:vertical-rl] rotate-180 font-mono text-[12px] leading-none ${column.kind === "port" ? "" : "font-semibold"} ${column.up || !column.far ? "" : "text-error line-through"} ${!column.far && !column.up ? "muted" : ""}`}
        >
          {column.name}
        </span>
      </button>
    </th>
  );
}

interface CellProps {
  column: Column;
  vlan: number;
  state: Membership;
  spot: string;
  lit: boolean;
  stop: boolean;
  onFocus: () => void;
  /** What the stroke that is being drawn will make of it, `chosen` inside a selection, or null. */
  painted: Wanted | "chosen" | null;
  onHover: () => void;
  onPress: () => void;
}

function Cell({ column, vlan, state, spot, lit, stop, painted, onFocus, onHover, onPress }: CellProps) {
  const shown: Membership = painted === null || painted === "chosen" || column.kind === "routed" ? state : painted === "none" ? "" : painted;
  const label = `VLAN ${vlan}, ${column.device} ${column.name}: ${MEMBERSHIP_WORDS[state]}`;
  return (
    <td role="gridcell" className={`hair border-b p-0 ${column.last ? "border-r" : ""} ${lit ? "bg-base-200" : ""}`}>
      <button
        type="button"
        data-spot={spot}
        data-state={state}
        tabIndex={stop ? 0 : -1}
        aria-label={label}
        title={label}
        onFocus={onFocus}
        onMouseEnter={onHover}
        onPointerDown={(e) => {
          if (e.button !== 0) return;
          e.preventDefault();
          e.currentTarget.focus();
          onPress();
        }}
        className={`${painted ? "bg-accent/25" : ""} hover:bg-base-300 flex touch-none h-8 w-7 items-center justify-center ${column.kind === "routed" ? "cursor-default" : "cursor-pointer"}`}
      >
        {shown === "" ? <span className="bg-base-content size-[3px] rounded-full opacity-20" /> : <MembershipSign state={shown} />}
      </button>
    </td>
  );
}
