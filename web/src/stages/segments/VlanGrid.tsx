import { useVirtualizer } from "@tanstack/react-virtual";
import { type ClipboardEvent, type KeyboardEvent, memo, type PointerEvent, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import type { StageProps } from "../../shell/parts";
import { MEMBERSHIP_WORDS, MembershipSign, type Membership, StateSign } from "../../theme/signs";
import {
  cellsOf,
  type Column,
  columnsOf,
  type Grid,
  nextCell,
  type Row,
  portListOf,
  selectedCells,
  strokeCells,
  STATE_WORDS,
  type Stroke,
  type Wanted,
  wantedBy,
} from "./model";
import { type Cell, moveBy } from "../../parts/cells";

type Props = StageProps & { grid: Grid };

/** Sizes in pixels: a row, the head of a row, the heads of the columns. */
const ROW = 33;
const ROW_HEAD = 281;
const HEADS = 110;

/** The grid itself: one tab stop, arrows to move, keys or clicks to set. Only what is in sight is drawn. */
export function VlanGrid({ grid, place, select, change }: Props) {
  const columns = useMemo(() => columnsOf(grid), [grid]);
  const [focus, setFocus] = useState<Cell>({ row: 0, column: 0 });
  const [anchor, setAnchor] = useState<Cell | null>(null);
  const frame = useRef<HTMLDivElement>(null);
  const moved = useRef(false);
  const [stroke, setStroke] = useState<Stroke | null>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- the grid is redrawn on every scroll on purpose
  const across = useVirtualizer({
    horizontal: true,
    count: columns.length,
    getScrollElement: () => frame.current,
    estimateSize: (k) => (columns[k]?.width ?? 0) + (columns[k]?.last ? 1 : 0),
    overscan: 3,
    scrollPaddingEnd: ROW_HEAD + 28,
  });
  const down = useVirtualizer({
    count: grid.rows.length,
    getScrollElement: () => frame.current,
    estimateSize: () => ROW,
    overscan: 3,
    scrollPaddingEnd: HEADS + ROW,
  });
  const set = (places: Cell[], wanted: Wanted) => {
    const cells = cellsOf(grid, columns, places, wanted);
    if (cells.length > 0) change.mutate({ kind: "cells", cells });
  };
  useEffect(() => {
    if (!stroke) return;
    const end = () => {
      set(strokeCells(stroke), stroke.wanted);
      setStroke(null);
    };
    window.addEventListener("pointerup", end, { once: true });
    return () => window.removeEventListener("pointerup", end);
  });
  useLayoutEffect(() => {
    if (!moved.current) return;
    const cell = frame.current?.querySelector<HTMLElement>(`[data-spot="${focus.row} ${focus.column}"]`);
    // The cell it came from may be gone before the next is drawn: the frame holds the keys meanwhile.
    (cell ?? frame.current)?.focus({ preventScroll: true });
    if (cell) moved.current = false;
  });
  const lit = columns.findIndex((c) => c.pointer === place.at);
  useEffect(() => {
    if (lit >= 0) across.scrollToIndex(lit, { align: "auto" });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only when another thing is selected
  }, [lit]);
  const painted = paintedBy(stroke ? strokeCells(stroke) : selectedCells(anchor, focus));
  const press = (event: PointerEvent) => {
    const at = event.button === 0 ? cellAt(event.target) : null;
    if (!at) return;
    event.preventDefault();
    (event.target as Element).closest<HTMLElement>("[data-spot]")?.focus();
    setAnchor(null);
    setStroke({ from: at, to: at, wanted: nextCell(grid.rows[at.row]?.cells[at.column] ?? "") });
  };
  const pass = (event: PointerEvent) => {
    const at = stroke && cellAt(event.target);
    if (stroke && at && (at.row !== stroke.to.row || at.column !== stroke.to.column)) setStroke({ ...stroke, to: at });
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const next = moveBy(focus, event.key, grid.rows.length, columns.length, event.ctrlKey);
    if (next) setAnchor(event.shiftKey ? (anchor ?? focus) : null);
    const wanted = wantedBy(event.key);
    if (next) {
      event.preventDefault();
      moved.current = true;
      setFocus(next);
      across.scrollToIndex(next.column);
      down.scrollToIndex(next.row);
    } else if (wanted && !event.ctrlKey && !event.metaKey) {
      event.preventDefault();
      set(anchor ? selectedCells(anchor, focus) : [focus], wanted);
    } else if (event.key === "Enter") {
      event.preventDefault();
      const column = columns[focus.column];
      if (column) select(column.pointer);
    }
  };
  const onCopy = (event: ClipboardEvent) => {
    event.preventDefault();
    event.clipboardData.setData("text/plain", portListOf(grid, columns, anchor ?? focus, focus));
  };
  const seen = across.getVirtualItems();
  const [from, to] = [seen[0]?.index ?? 0, seen.at(-1)?.index ?? -1];
  const [left, right] = [seen[0]?.start ?? 0, across.getTotalSize() - (seen.at(-1)?.end ?? 0)];
  const rows = down.getVirtualItems();
  const [above, below] = [rows[0]?.start ?? 0, down.getTotalSize() - (rows.at(-1)?.end ?? 0)];
  const shown = useMemo(() => columns.slice(from, to + 1).map((column, i) => ({ k: from + i, column })), [columns, from, to]);
  return (
    <div ref={frame} tabIndex={-1} onKeyDown={onKeyDown} onCopy={onCopy} className="min-h-0 flex-1 overflow-auto outline-none" data-testid="vlan-grid">
      <table
        role="grid"
        aria-label="VLANs and ports"
        aria-rowcount={grid.rows.length + 2}
        aria-colcount={columns.length + 1}
        className="table-fixed border-separate border-spacing-0"
        onPointerDown={press}
        onPointerOver={pass}
        onFocus={(e) => {
          const at = cellAt(e.target);
          if (at && (at.row !== focus.row || at.column !== focus.column)) setFocus(at);
        }}
        style={{ width: ROW_HEAD + across.getTotalSize() }}
      >
        <Heads grid={grid} shown={shown} left={left} right={right} lit={lit} select={select} />
        <tbody>
          {above > 0 && <tr style={{ height: above }} />}
          {rows.map(({ index: r }) => {
            const row = grid.rows[r];
            return (
              row && (
                <GridRow
                  key={row.vlan}
                  row={row}
                  index={r}
                  shown={shown}
                  left={left}
                  right={right}
                  lit={lit}
                  stop={focus.row === r ? focus.column : -1}
                  painted={painted.get(r) ?? ""}
                  wanted={stroke?.wanted ?? null}
                  select={select}
                />
              )
            );
          })}
          {below > 0 && <tr style={{ height: below }} />}
        </tbody>
      </table>
    </div>
  );
}

type HeadProps = Pick<RowProps, "shown" | "left" | "right" | "lit" | "select"> & { grid: Grid };

/** Devices, and under them their ports. */
const Heads = memo(function Heads({ grid, shown, left, right, lit, select }: HeadProps) {
  return (
    <thead>
      <tr>
        <td className="bg-base-100 hair sticky top-0 left-0 z-30 h-6 border-r" style={{ width: ROW_HEAD }} />
        <Gap size={left} head />
        {grid.devices.map((d) => {
          const span = shown.filter((s) => s.column.device === d.name).length;
          return (
            span > 0 && (
              <th
                key={d.name}
                colSpan={span}
                scope="colgroup"
                className="bg-base-100 hair sticky top-0 z-20 h-6 overflow-clip border-r border-l px-1 text-left font-semibold"
              >
                <button type="button" className="link-quiet sticky left-[285px] max-w-full truncate" onClick={() => select(d.pointer)} title={d.name}>
                  {d.name}
                </button>
              </th>
            )
          );
        })}
        <Gap size={right} head />
      </tr>
      <tr>
        <th scope="col" className="bg-base-100 hair sticky top-6 left-0 z-30 border-r border-b px-3 pb-1 text-left align-bottom">
          <span className="eyebrow">VLAN, and its segments</span>
        </th>
        <Gap size={left} head />
        {shown.map(({ k, column }) => (
          <PortHead key={column.pointer + column.device} column={column} lit={k === lit} onPick={() => select(column.pointer)} />
        ))}
        <Gap size={right} head />
      </tr>
    </thead>
  );
}, sameBut);

/** The width of what is out of sight. */
function Gap({ size, head = false }: { size: number; head?: boolean }) {
  if (size <= 0) return null;
  return head ? <th aria-hidden="true" style={{ width: size }} /> : <td aria-hidden="true" style={{ width: size }} />;
}

function RowHead({ row, select }: { row: Row; select: StageProps["select"] }) {
  return (
    <th scope="row" className="bg-base-100 hair group-hover/row:bg-base-200 sticky left-0 z-10 border-r border-b px-3 text-left font-normal">
      <div className="flex h-8 items-center gap-2">
        <span className="w-8 text-right font-mono">{row.vlan}</span>
        <button
          type="button"
          className="link-quiet min-w-0 flex-1 truncate text-left font-medium"
          title={row.note ?? row.name}
          onClick={() => select(row.pointer)}
        >
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
  );
}

function PortHead({ column, lit, onPick }: { column: Column; lit: boolean; onPick: () => void }) {
  const about = [
    column.far ? `leads to ${column.far}` : "no cable",
    column.up ? "up" : column.reason,
    column.members.length ? `bundle of ports ${column.members.join(", ")}` : "",
    column.note ?? "",
  ];
  return (
    <th
      scope="col"
      style={{ width: column.width + (column.last ? 1 : 0) }}
      className={`hair sticky top-6 z-20 border-b align-bottom ${column.last ? "border-r" : ""} ${lit ? "bg-base-200" : "bg-base-100"}`}
    >
      <button
        type="button"
        onClick={onPick}
        title={about.filter(Boolean).join(" · ")}
        className="flex h-20 w-full cursor-pointer items-end justify-center pb-1"
      >
        <span
          className={`[writing-mode:vertical-rl] rotate-180 font-mono text-[12px] leading-none ${column.kind === "port" ? "" : "font-semibold"} ${column.up || !column.far ? "" : "text-error line-through"} ${!column.far && !column.up ? "muted" : ""}`}
        >
          {column.name}
        </span>
      </button>
    </th>
  );
}

/** Where a cell is, from the element that was met. */
function cellAt(target: EventTarget): Cell | null {
  const said = target instanceof Element ? target.closest("[data-spot]")?.getAttribute("data-spot") : null;
  const [row, column] = (said ?? "").split(" ").map(Number);
  return row === undefined || column === undefined ? null : { row, column };
}

/** The columns that are painted, by row, as text: a row whose text is the same is not drawn anew. */
function paintedBy(places: Cell[]): Map<number, string> {
  const out = new Map<number, string>();
  for (const { row, column } of places) out.set(row, `${out.get(row) ?? " "}${column} `);
  return out;
}

interface RowProps {
  row: Row;
  index: number;
  shown: { k: number; column: Column }[];
  left: number;
  right: number;
  lit: number;
  /** The column of the one cell that Tab comes to, or -1. */
  stop: number;
  painted: string;
  /** What the stroke that is being drawn will make of the painted cells; null = they are only chosen. */
  wanted: Wanted | null;
  select: StageProps["select"];
}

/** One VLAN. Scrolling draws only the rows that come into sight. */
const GridRow = memo(function GridRow({ row, index, shown, left, right, lit, stop, painted, wanted, select }: RowProps) {
  return (
    <tr aria-rowindex={index + 3} className="group/row will-change-transform">
      <RowHead row={row} select={select} />
      <Gap size={left} />
      {shown.map(({ k, column }) => (
        <Cell
          key={column.pointer + column.device}
          column={column}
          index={k}
          vlan={row.vlan}
          state={row.cells[k] ?? ""}
          spot={`${index} ${k}`}
          lit={k === lit}
          stop={stop === k}
          painted={painted.includes(` ${k} `) ? (wanted ?? "chosen") : null}
        />
      ))}
      <Gap size={right} />
    </tr>
  );
}, sameBut);

/** `select` is made anew with every frame and means the same. */
function sameBut<P extends object>(one: P, two: P): boolean {
  return (Object.keys(one) as (keyof P)[]).every((k) => k === "select" || one[k] === two[k]);
}

interface CellProps {
  column: Column;
  index: number;
  vlan: number;
  state: Membership;
  spot: string;
  lit: boolean;
  stop: boolean;
  /** What the stroke that is being drawn will make of it, `chosen` inside a selection, or null. */
  painted: Wanted | "chosen" | null;
}

/** One node where nothing stands: a thousand ports have many of those. */
function Cell({ column, index, vlan, state, spot, lit, stop, painted }: CellProps) {
  const shown: Membership = painted === null || painted === "chosen" || column.kind === "routed" ? state : painted === "none" ? "" : painted;
  const label = `VLAN ${vlan}, ${column.device} ${column.name}: ${MEMBERSHIP_WORDS[state]}`;
  const ground = painted ? "bg-accent/25" : lit ? "bg-base-200" : "";
  return (
    <td
      role="gridcell"
      aria-colindex={index + 2}
      data-spot={spot}
      data-state={state}
      tabIndex={stop ? 0 : -1}
      aria-label={label}
      title={label}
      className={`hair grid-cell group-hover/row:bg-base-200 hover:bg-base-300 h-8 touch-none border-b p-0 ${column.last ? "border-r" : ""} ${ground} ${column.kind === "routed" ? "cursor-default" : "cursor-pointer"} ${shown === "" ? "grid-dot" : ""}`}
    >
      {shown !== "" && <MembershipSign state={shown} />}
    </td>
  );
}
