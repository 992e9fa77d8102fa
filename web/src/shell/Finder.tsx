import { Command } from "cmdk";
import { useState } from "react";
import type { Schemas } from "../api/client";
import { useFound } from "../api/queries";
import { Dialog } from "../parts/Dialog";
import { useSettled } from "../parts/useSettled";
import { type Action, actionsFor } from "./actions";
import type { Place } from "./place";

interface Props {
  design: string;
  go: (change: Partial<Place>) => void;
  select: (pointer: string) => void;
  /** What the finder can do besides finding. */
  actions: Action[];
  onClose: () => void;
}

/** One key, a few letters, and one is there: any thing, address, prefix, service or pair; or it is done. */
export function Finder({ design, go, select, actions, onClose }: Props) {
  const [text, setText] = useState("");
  const asked = useSettled(text, 120);
  const found = useFound(design, asked);
  const acts = actionsFor(actions, text);
  const hits = text.trim() === "" ? [] : (found.data ?? []);
  const open = (hit: Schemas["Hit"]) => {
    if (hit.sort === "pair" && hit.source && hit.target) go({ stage: "reach", pair: { from: hit.source, to: hit.target }, at: null });
    else if (hit.sort === "address" && hit.source) go({ stage: "reach", look: hit.source });
    else if (hit.pointer !== null) select(hit.pointer);
    onClose();
  };
  return (
    <Dialog label="Find" onClose={onClose}>
      <Command label="Find" shouldFilter={false} className="-m-2 flex max-h-[60vh] flex-col">
        <Command.Input
          autoFocus
          value={text}
          onValueChange={setText}
          placeholder="VLAN, port, zone, rule, address… two segments, or what to do"
          className="hair mb-2 w-full border-b bg-transparent p-2 text-base outline-none"
        />
        <Command.List className="overflow-auto">
          {text.trim() !== "" && !found.isFetching && hits.length === 0 && acts.length === 0 && (
            <p className="muted p-3">Nothing in this design is called that.</p>
          )}
          {acts.length > 0 && (
            <Command.Group heading={<span className="eyebrow px-2">Do</span>}>
              {acts.map((a) => (
                <Row key={a.words} value={`do ${a.words}`} kind={a.hint} title={a.words} onPick={() => (onClose(), a.act())} />
              ))}
            </Command.Group>
          )}
          {hits.length > 0 && (
            <Command.Group heading={<span className="eyebrow px-2">Find</span>}>
              {hits.map((h) => (
                <Row
                  key={`${h.sort} ${h.title} ${h.pointer}`}
                  value={`${h.sort} ${h.title} ${h.pointer}`}
                  kind={h.kind}
                  title={h.title}
                  onPick={() => open(h)}
                />
              ))}
            </Command.Group>
          )}
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
