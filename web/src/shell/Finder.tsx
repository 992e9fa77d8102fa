import { Command } from "cmdk";
import { useMatrix, useNames } from "../api/queries";
import { Dialog } from "../parts/Dialog";
import type { Place } from "./place";

interface Props {
  design: string;
  go: (change: Partial<Place>) => void;
  select: (pointer: string) => void;
  onClose: () => void;
}

/** One key, a few letters, and one is there: any named thing, and any pair of segments. */
export function Finder({ design, go, select, onClose }: Props) {
  const names = useNames(design);
  const matrix = useMatrix(design, { service: null, family: null }, false);
  const segments = matrix.data?.segments.map((s) => s.name) ?? [];
  const pairs = segments.flatMap((from) => segments.filter((to) => to !== from).map((to) => ({ from, to })));
  return (
    <Dialog label="Find" onClose={onClose}>
      <Command label="Find" className="-m-2 flex max-h-[60vh] flex-col">
        <Command.Input autoFocus placeholder="VLAN, port, zone, rule, address… or two segments" className="hair mb-2 w-full border-b bg-transparent p-2 text-base outline-none" />
        <Command.List className="overflow-auto">
          <Command.Empty className="muted p-3">Nothing in this design is called that.</Command.Empty>
          <Command.Group>
            {names.data?.map((n) => (
              <Row
                key={n.pointer}
                value={`${n.kind} ${n.title} ${n.pointer}`}
                kind={n.kind}
                title={n.title}
                onPick={() => {
                  select(n.pointer);
                  onClose();
                }}
              />
            ))}
            {pairs.map((pair) => (
              <Row
                key={`${pair.from} ${pair.to}`}
                value={`${pair.from} to ${pair.to} pair`}
                kind="Pair"
                title={`${pair.from} → ${pair.to}`}
                onPick={() => {
                  go({ stage: "reach", pair });
                  onClose();
                }}
              />
            ))}
          </Command.Group>
        </Command.List>
      </Command>
    </Dialog>
  );
}

function Row({ value, kind, title, onPick }: { value: string; kind: string; title: string; onPick: () => void }) {
  return (
    <Command.Item value={value} onSelect={onPick} className="data-[selected=true]:bg-base-200 flex cursor-pointer gap-3 rounded px-2 py-1">
      <span className="muted w-28 shrink-0">{kind}</span>
      <span className="truncate">{title}</span>
    </Command.Item>
  );
}
