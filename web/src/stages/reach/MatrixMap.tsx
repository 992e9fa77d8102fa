import { type KeyboardEvent, type MouseEvent, useEffect, useRef, useState } from "react";
import { useMatrixMap, useTiles } from "../../api/queries";
import { Working } from "../../parts/Empty";
import { Segmented } from "../../parts/Segmented";
import type { StageProps } from "../../shell/parts";
import { moveBy } from "../../parts/cells";
import { GROUPS, inSight, type Looked, lettersAround, type MapView, mapWords, tilesOf, ZOOMS } from "./map";
import { paint } from "./paint";

type Props = StageProps & { shownPair: { from: string; to: string } | null };

/** The matrix of a large site: drawn on canvas, only what is in sight; groups fold into one row and column. */
export function MatrixMap({ design, place, go, shownPair }: Props) {
  const [view, setView] = useState<MapView>({ group: "zone", order: "plan", fold: [] });
  const [zoom, setZoom] = useState<number>(12);
  const [at, setAt] = useState<[number, number]>([0, 1]);
  const [scroll, setScroll] = useState({ left: 0, top: 0, width: 0, height: 0 });
  const map = useMatrixMap(design, place.question, place.transits, view);
  const frame = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const data = map.data;
  const waiting = data === undefined;
  const sight = inSight(scroll, zoom, data?.axis.length ?? 0);
  const looked: Looked = useTiles(design, place.question, data ? tilesOf(data, sight) : []);

  useEffect(() => {
    const element = frame.current;
    if (!element) return;
    const measure = () => setScroll({ left: element.scrollLeft, top: element.scrollTop, width: element.clientWidth, height: element.clientHeight });
    measure();
    const watch = new ResizeObserver(measure);
    watch.observe(element);
    element.addEventListener("scroll", measure, { passive: true });
    return () => {
      watch.disconnect();
      element.removeEventListener("scroll", measure);
    };
  }, [waiting]);
  useEffect(() => {
    if (canvas.current && data) paint(canvas.current, { data, looked, sight, zoom, scroll, at, picked: shownPair });
  });

  if (map.isPending || !data) return <Working />;
  const count = data.axis.length;
  const pick = (a: number, b: number) => {
    setAt([a, b]);
    const [one, two] = [data.axis[a], data.axis[b]];
    if (!one || !two || a === b) return;
    if (one.folded || two.folded) return;
    go({ pair: { from: one.name, to: two.name }, passing: false, packet: null });
  };
  const fold = (group: string) => setView({ ...view, fold: view.fold.includes(group) ? view.fold.filter((g) => g !== group) : [...view.fold, group] });
  const onKeyDown = (event: KeyboardEvent) => {
    const next = moveBy({ row: at[0], column: at[1] }, event.key, count, count, event.ctrlKey);
    if (next) {
      event.preventDefault();
      setAt([next.row, next.column]);
      const [x, y] = [next.column * zoom, next.row * zoom];
      const element = frame.current;
      if (element) {
        const { left, top } = sight.room;
        if (x < element.scrollLeft) element.scrollLeft = x;
        if (y < element.scrollTop) element.scrollTop = y;
        if (x + zoom > element.scrollLeft + element.clientWidth - left) element.scrollLeft = x + zoom - element.clientWidth + left;
        if (y + zoom > element.scrollTop + element.clientHeight - top) element.scrollTop = y + zoom - element.clientHeight + top;
      }
    } else if (event.key === "Enter") {
      event.preventDefault();
      const folded = [data.axis[at[0]], data.axis[at[1]]].find((u) => u?.folded);
      if (folded) fold(folded.group);
      else pick(...at);
    } else if (event.key === " ") {
      event.preventDefault();
      fold(data.axis[at[0]]?.group ?? "");
    }
  };
  const spot = (event: MouseEvent): [number, number] => {
    const box = event.currentTarget.getBoundingClientRect();
    const column = Math.floor((event.clientX - box.left - sight.room.left + scroll.left) / zoom);
    const row = Math.floor((event.clientY - box.top - sight.room.top + scroll.top) / zoom);
    return [row, column];
  };
  const words = mapWords(data, looked, at);
  return (
    <section className="flex min-w-0 flex-1 flex-col" aria-label="The matrix as a map">
      <div className="flex flex-wrap items-center gap-2 pb-1">
        <span className="muted">grouped by</span>
        <Segmented
          label="Grouped by"
          options={GROUPS.map((g) => [g, g === "vlan" ? "VLAN" : g])}
          chosen={view.group}
          onChoose={(group) => setView({ ...view, group, fold: [] })}
        />
        <label className="flex cursor-pointer items-center gap-1.5">
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={view.order === "like"}
            onChange={(e) => setView({ ...view, order: e.target.checked ? "like" : "plan" })}
          />
          like beside like
        </label>
        <button type="button" className="btn btn-ghost btn-xs" onClick={() => setView({ ...view, fold: view.fold.length ? [] : data.groups })}>
          {view.fold.length ? "Unfold all" : "Fold all"}
        </button>
        <label className="ml-auto flex items-center gap-1">
          <span className="muted">cells</span>
          <input
            type="range"
            aria-label="Size of cells"
            className="range range-xs w-24"
            min={0}
            max={ZOOMS.length - 1}
            value={ZOOMS.indexOf(zoom)}
            onChange={(e) => setZoom(ZOOMS[Number(e.target.value)] ?? 12)}
          />
        </label>
      </div>
      <div
        ref={frame}
        role="grid"
        tabIndex={0}
        aria-label="Reach"
        aria-rowcount={count}
        aria-colcount={count}
        data-testid="matrix-map"
        data-at={at.join(" ")}
        data-drawn={`${sight.rows[0]}-${sight.rows[1]} ${sight.columns[0]}-${sight.columns[1]}`}
        className="hair focus-visible:outline-accent relative min-h-0 flex-1 overflow-auto border"
        onKeyDown={onKeyDown}
      >
        <div style={{ width: sight.room.left + count * zoom, height: sight.room.top + count * zoom }}>
          <canvas
            ref={canvas}
            className="sticky top-0 left-0 block cursor-crosshair"
            onClick={(event) => {
              const [row, column] = spot(event);
              const heads = column * zoom < scroll.left || row * zoom < scroll.top;
              const group = data.axis[column * zoom < scroll.left ? row : column]?.group;
              if (heads && group) fold(group);
              else if (row >= 0 && column >= 0 && row < count && column < count) {
                const folded = [data.axis[row], data.axis[column]].find((u) => u?.folded);
                if (folded) fold(folded.group);
                else pick(row, column);
              }
            }}
            onMouseMove={(event) => {
              const [row, column] = spot(event);
              const name = (k: number) => data.axis[k]?.name ?? "";
              event.currentTarget.title =
                row >= 0 && column >= 0 && row < count && column < count ? mapWords(data, looked, [row, column]) : name(Math.max(row, column));
            }}
          />
        </div>
      </div>
      <p className="muted truncate pt-1" role="status" data-testid="map-words" data-letter={lettersAround(data, at)}>
        {words} · {count} x {count}; arrows move, Enter opens, space folds
      </p>
    </section>
  );
}
