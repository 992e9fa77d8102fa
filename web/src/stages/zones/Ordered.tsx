import { closestCenter, DndContext, type DragEndEvent, type DragOverEvent, KeyboardSensor, PointerSensor, useSensor, useSensors } from "@dnd-kit/core";
import { SortableContext, sortableKeyboardCoordinates, useSortable, verticalListSortingStrategy } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { useVirtualizer } from "@tanstack/react-virtual";
import { GripVertical } from "lucide-react";
import { memo, type ReactNode, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { usePreview } from "../../api/queries";
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

/** From how many entries on only what is in sight is drawn, and how high one is until it is measured. */
const MANY = 30;
const HEIGHT = 49;

interface Lifted {
  from: number;
  to: number;
}

/** A list in which order counts: lift an entry by its handle, with the mouse or Space and the arrows, and read what letting go would change. */
export function Ordered<T>({ design, change, list, label, entries, nameOf, children, place }: Props<T>) {
  const [lifted, setLifted] = useState<Lifted | null>(null);
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const ids = useMemo(() => entries.map((e) => idOf(e.index)), [entries]);
  const spot = (id: unknown) => Number(String(id).slice(1));
  const onDragOver = ({ active, over }: DragOverEvent) => setLifted(over ? { from: spot(active.id), to: spot(over.id) } : null);
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    const patch = over ? move(list, spot(active.id), spot(over.id)) : null;
    if (patch) change.mutate({ kind: "patch", patch });
    setLifted(null);
  };
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={closestCenter}
      onDragStart={({ active }) => setLifted({ from: spot(active.id), to: spot(active.id) })}
      onDragOver={onDragOver}
      onDragEnd={onDragEnd}
      onDragCancel={() => setLifted(null)}
    >
      <SortableContext items={ids} strategy={verticalListSortingStrategy}>
        <Drawn list={list} label={label} entries={entries} nameOf={nameOf} at={place.at}>
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
};

/** The entries, of a long list those in sight; scrolling draws these alone, and nothing of what lifts and drops. */
function Drawn<T>({ list, label, entries, nameOf, at, children }: DrawnProps<T>) {
  const frame = useRef<HTMLOListElement>(null);
  const [margin, setMargin] = useState(0);
  useLayoutEffect(() => setMargin(frame.current?.offsetTop ?? 0), [entries.length]);
  // eslint-disable-next-line react-hooks/incompatible-library -- the list is redrawn on every scroll on purpose
  const down = useVirtualizer({
    count: entries.length,
    enabled: entries.length > MANY,
    getScrollElement: () => frame.current?.closest<HTMLElement>("[data-scrolls]") ?? null,
    estimateSize: () => HEIGHT,
    overscan: 4,
    scrollMargin: margin,
    getItemKey: (k) => entries[k]?.index ?? k,
  });
  const lit = entries.findIndex((e) => at === `${list}/${e.index}`);
  useEffect(() => {
    if (lit >= 0 && entries.length > MANY) down.scrollToIndex(lit, { align: "auto" });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only when another thing is selected
  }, [lit]);
  const items = entries.length > MANY ? down.getVirtualItems() : null;
  const drawn = items ? items.flatMap((v) => entries[v.index] ?? []) : entries;
  const above = items ? (items[0]?.start ?? margin) - margin : 0;
  const below = items ? down.getTotalSize() + margin - (items.at(-1)?.end ?? margin) : 0;
  return (
    <ol ref={frame} aria-label={label} className="flex flex-col" style={{ paddingTop: above, paddingBottom: below }}>
      {drawn.map((placed, k) => (
        <Entry
          key={idOf(placed.index)}
          id={idOf(placed.index)}
          at={items?.[k]?.index ?? null}
          measure={items ? down.measureElement : null}
          number={placed.index + 1}
          name={nameOf(placed.entry)}
          lit={at === `${list}/${placed.index}`}
        >
          <Body placed={placed} draw={children as (placed: Placed<unknown>) => ReactNode} />
        </Entry>
      ))}
    </ol>
  );
}

/** What stands in an entry: not drawn anew when another comes into sight, which every entry hears of because one might be dropped there. */
const Body = memo(function Body({ placed, draw }: { placed: Placed<unknown>; draw: (placed: Placed<unknown>) => ReactNode }) {
  return draw(placed);
});

const idOf = (index: number) => `n${index}`;

interface EntryProps {
  id: string;
  number: number;
  name: string;
  lit: boolean;
  /** Its place among all, and what measures it; null where all are drawn. */
  at: number | null;
  measure: ((node: Element | null) => void) | null;
  children: ReactNode;
}

function Entry({ id, number, name, lit, at, measure, children }: EntryProps) {
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging } = useSortable({ id });
  return (
    <li
      ref={(node) => {
        setNodeRef(node);
        measure?.(node);
      }}
      data-index={at ?? undefined}
      data-entry={name}
      style={{ transform: CSS.Translate.toString(transform), transition: transition ?? undefined }}
      className={`hair grid grid-cols-[1.250rem_1.750rem_minmax(0,1fr)] items-start border-b will-change-transform ${isDragging ? "bg-accent/20 relative z-20 shadow" : lit ? "bg-base-200" : "bg-base-100"}`}
    >
      <button
        type="button"
        ref={setActivatorNodeRef}
        {...attributes}
        {...listeners}
        aria-label={`Move ${name}`}
        className="muted mt-1.5 cursor-grab touch-none rounded"
      >
        <GripVertical size={14} />
      </button>
      <span className="muted pt-1.5 pr-2 text-right font-mono text-[11px]">{number}</span>
      {children}
    </li>
  );
}

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
