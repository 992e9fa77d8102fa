import { closestCenter, DndContext, type DragEndEvent, type DragOverEvent, KeyboardSensor, PointerSensor, useSensor, useSensors } from "@dnd-kit/core";
import { SortableContext, sortableKeyboardCoordinates, useSortable, verticalListSortingStrategy } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { GripVertical } from "lucide-react";
import { memo, type ReactNode, type RefObject, useCallback, useLayoutEffect, useMemo, useRef, useState } from "react";
import { flushSync } from "react-dom";
import { usePreview } from "../../api/queries";
import { type Measure, useLong } from "../../parts/useLong";
import { shown } from "../../shell/consequences";
import type { StageProps } from "../../shell/parts";
import { move, type Placed } from "./model";

interface Props<T> extends StageProps {
  /** Pointer of the list in the document. */
  list: string;
  label: string;
  entries: Placed<T>[];
  nameOf: (entry: T) => string;
  children: (placed: Placed<T>) => ReactNode;
}

/** How high an entry is until it is measured. */
const HEIGHT = 49;

interface Lifted {
  from: number;
  to: number;
}

/** A list in which order counts: lift an entry by its handle, with the mouse or Space and the arrows, and read what letting go would change. */
export function Ordered<T>({ design, change, list, label, entries, nameOf, children, place }: Props<T>) {
  const [lifted, setLifted] = useState<Lifted | null>(null);
  const [armed, setArmed] = useState(false);
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const ids = useMemo(() => entries.map((e) => idOf(e.index)), [entries]);
  const spot = (id: unknown) => Number(String(id).slice(1));
  const rest = () => {
    setLifted(null);
    setArmed(false);
  };
  const onDragOver = ({ active, over }: DragOverEvent) => setLifted(over ? { from: spot(active.id), to: spot(over.id) } : null);
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    const patch = over ? move(list, spot(active.id), spot(over.id)) : null;
    if (patch) change.mutate({ kind: "patch", patch });
    rest();
  };
  return (
    <DndContext
      id={list}
      sensors={sensors}
      collisionDetection={closestCenter}
      onDragStart={({ active }) => setLifted({ from: spot(active.id), to: spot(active.id) })}
      onDragOver={onDragOver}
      onDragEnd={onDragEnd}
      onDragCancel={rest}
      onDragAbort={rest}
    >
      <SortableContext items={ids} strategy={verticalListSortingStrategy}>
        <Drawn list={list} label={label} entries={entries} nameOf={nameOf} at={place.at} armed={armed} arm={setArmed}>
          {children}
        </Drawn>
      </SortableContext>
      {lifted && <IfLetGo design={design} list={list} lifted={lifted} />}
    </DndContext>
  );
}

type DrawnProps<T> = Pick<Props<T>, "list" | "label" | "entries" | "nameOf" | "children"> & {
  /** What is selected. */
  at: string | null;
  armed: boolean;
  arm: (armed: boolean) => void;
};

/** The entries, of a long list those in sight; scrolling draws these alone, and nothing of what lifts and drops. */
const Drawn = memo(function Drawn<T>({ list, label, entries, nameOf, at, armed, arm, children }: DrawnProps<T>) {
  const lit = entries.findIndex((e) => at === `${list}/${e.index}`);
  const { frame, drawn, above, below, measure } = useLong<HTMLOListElement>({
    count: entries.length,
    heightOf: () => HEIGHT,
    keyOf: (k) => entries[k]?.index ?? k,
    lit,
  });
  return (
    <ol ref={frame} aria-label={label} className="flex flex-col" style={{ paddingTop: above, paddingBottom: below }}>
      {drawn.flatMap((k) => {
        const placed = entries[k];
        if (!placed) return [];
        return (
          <Entry
            key={idOf(placed.index)}
            list={list}
            at={k}
            measure={measure}
            placed={placed}
            name={nameOf(placed.entry)}
            lit={k === lit}
            armed={armed}
            arm={arm}
            draw={children as (placed: Placed<unknown>) => ReactNode}
          />
        );
      })}
    </ol>
  );
}) as <T>(props: DrawnProps<T>) => ReactNode;

const idOf = (index: number) => `n${index}`;

interface EntryProps {
  list: string;
  placed: Placed<unknown>;
  name: string;
  lit: boolean;
  /** Its place among those shown. */
  at: number;
  measure: Measure;
  armed: boolean;
  arm: (armed: boolean) => void;
  draw: (placed: Placed<unknown>) => ReactNode;
}

type Sort = Pick<ReturnType<typeof useSortable>, "transition" | "isDragging" | "listeners"> & {
  /** How far it has moved aside, as CSS. */
  moved: string | undefined;
};

/** One entry and its handle. It takes part in lifting and dropping only from the moment a handle is grasped: till then scrolling draws none of it anew. */
const Entry = memo(function Entry({ list, placed, name, lit, at, measure, armed, arm, draw }: EntryProps) {
  const node = useRef<HTMLLIElement>(null);
  const handle = useRef<HTMLButtonElement>(null);
  const listeners = useRef<Sort["listeners"]>(undefined);
  const [sort, setSort] = useState<Sort | null>(null);
  const onSort = useCallback((now: Sort | null) => {
    listeners.current = now?.listeners;
    setSort(now);
  }, []);
  const hold = useCallback(
    (li: HTMLLIElement | null) => {
      node.current = li;
      measure?.(li);
    },
    [measure],
  );
  const grasp = (kind: "onPointerDown" | "onKeyDown", event: React.SyntheticEvent) => {
    if (!armed) flushSync(() => arm(true));
    listeners.current?.[kind]?.(event);
  };
  const lifted = sort?.isDragging ?? false;
  return (
    <li
      ref={hold}
      data-index={at}
      data-entry={name}
      style={sort ? { transform: sort.moved, transition: sort.transition } : undefined}
      className={`hair grid grid-cols-[1.250rem_1.750rem_minmax(0,1fr)] items-start border-b ${lifted ? "bg-accent/20 relative z-20 shadow" : lit ? "bg-base-200" : "bg-base-100"}`}
    >
      <button
        type="button"
        ref={handle}
        aria-roledescription="sortable"
        aria-describedby={list}
        aria-label={`Move ${name}`}
        className="muted mt-1.5 cursor-grab touch-none rounded"
        onPointerDown={(e) => grasp("onPointerDown", e)}
        onKeyDown={(e) => grasp("onKeyDown", e)}
        onBlur={() => !lifted && arm(false)}
      >
        <GripVertical size={14} />
      </button>
      <span className="muted pt-1.5 pr-2 text-right font-mono text-[11px]">{placed.index + 1}</span>
      <Body placed={placed} draw={draw} />
      {armed && <Sorts id={idOf(placed.index)} node={node} handle={handle} onSort={onSort} />}
    </li>
  );
});

/** What stands in an entry: not drawn anew while entries move aside. */
const Body = memo(function Body({ placed, draw }: Pick<EntryProps, "placed" | "draw">) {
  return draw(placed);
});

interface SortsProps {
  id: string;
  node: RefObject<HTMLElement | null>;
  handle: RefObject<HTMLElement | null>;
  onSort: (sort: Sort | null) => void;
}

/** Lets an entry be lifted, and make room for one that is; it draws nothing itself. */
const Sorts = memo(function Sorts({ id, node, handle, onSort }: SortsProps) {
  const { setNodeRef, setActivatorNodeRef, transform, transition, isDragging, listeners } = useSortable({ id });
  useLayoutEffect(() => {
    setNodeRef(node.current);
    setActivatorNodeRef(handle.current);
    return () => setNodeRef(null);
  }, [node, handle, setNodeRef, setActivatorNodeRef]);
  const moved = CSS.Translate.toString(transform);
  useLayoutEffect(() => onSort({ moved, transition, isDragging, listeners }), [onSort, moved, transition, isDragging, listeners]);
  useLayoutEffect(() => () => onSort(null), [onSort]);
  return null;
});

/** What letting go here would open and close; it floats over the foot of the stage, so the list stays where it is. */
function IfLetGo({ design, list, lifted }: { design: string; list: string; lifted: Lifted }) {
  const patch = move(list, lifted.from, lifted.to);
  const preview = usePreview(design, patch);
  const fresh = preview.data !== undefined && !preview.isPlaceholderData;
  const groups = fresh ? shown(preview.data.consequences) : [];
  const { opened = [], closed = [], changed = [] } = fresh ? preview.data.consequences : {};
  const lines = [...opened, ...closed, ...changed].filter((c) => !c.folded);
  return (
    <div
      role="status"
      aria-live="polite"
      data-testid="if-let-go"
      className="bg-neutral text-neutral-content pointer-events-none fixed right-80 bottom-12 left-44 z-30 rounded-md px-4 py-2.5 shadow-lg"
    >
      <p className="font-medium">
        {patch === null
          ? "Let go here, and nothing changes."
          : !fresh
            ? "If you let go here: working it out…"
            : groups.length === 0
              ? "If you let go here: nothing opens or closes."
              : `If you let go here: ${groups.map((g) => g.words).join(", ")}.`}
      </p>
      {patch !== null &&
        lines.slice(0, 4).map((c) => (
          <p key={`${c.kind} ${c.source} ${c.target}`} className="truncate text-[12px] opacity-85">
            {c.source} → {c.target}: {[...c.gained.map((f) => `opens ${f.services}`), ...c.lost.map((f) => `closes ${f.services}`)].slice(0, 2).join("; ")}
          </p>
        ))}
    </div>
  );
}
