import { closestCenter, DndContext, type DragEndEvent, type DragOverEvent, KeyboardSensor, PointerSensor, useSensor, useSensors } from "@dnd-kit/core";
import { SortableContext, sortableKeyboardCoordinates, useSortable, verticalListSortingStrategy } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { GripVertical } from "lucide-react";
import { type ReactNode, useState } from "react";
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
  const ids = entries.map((e) => idOf(e.index));
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
        <ol aria-label={label} className="flex flex-col">
          {entries.map((placed) => (
            <Entry
              key={idOf(placed.index)}
              id={idOf(placed.index)}
              number={placed.index + 1}
              name={nameOf(placed.entry)}
              lit={place.at === `${list}/${placed.index}`}
            >
              {children(placed)}
            </Entry>
          ))}
        </ol>
      </SortableContext>
      {lifted && <IfLetGo design={design} list={list} lifted={lifted} />}
    </DndContext>
  );
}

const idOf = (index: number) => `n${index}`;

function Entry({ id, number, name, lit, children }: { id: string; number: number; name: string; lit: boolean; children: ReactNode }) {
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging } = useSortable({ id });
  return (
    <li
      ref={setNodeRef}
      data-entry={name}
      style={{ transform: CSS.Translate.toString(transform), transition: transition ?? undefined }}
      className={`hair grid grid-cols-[1.250rem_1.750rem_minmax(0,1fr)] items-start border-b ${isDragging ? "bg-accent/20 relative z-20 shadow" : lit ? "bg-base-200" : "bg-base-100"}`}
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
