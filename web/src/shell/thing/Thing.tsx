import { ChevronRight, X } from "lucide-react";
import { type ComponentProps, useState } from "react";
import { Refusal, type Schemas } from "../../api/client";
import { useForms } from "../../api/making";
import { useClimb, useDraft, useItem } from "../../api/queries";
import type { Plain } from "../../parts/fields/model";
import { ThingFields } from "../../parts/fields/ThingFields";
import type { StageProps } from "../parts";
import { CopyPort } from "../port/CopyPort";
import { JobForms } from "../port/JobForms";
import { ShortForm } from "../port/ShortForm";
import { SwitchMode } from "../port/SwitchMode";
import { Findings } from "../Findings";
import { Probe } from "../Probe";
import { plugPlace, portPlace, tagsOf, takesVlans } from "../probe";
import { Remove } from "../Remove";
import { Copy } from "./Copy";
import { Inside } from "./Inside";
import { MakeDialog } from "./MakeDialog";
import { Parts } from "./Parts";
import { PortsDialog } from "./PortsDialog";

type Props = StageProps & { at: string; onClose: () => void };
type Making = { kind: string; at: string; then: ((name: string) => void) | null } | { kind: "ports" } | null;

/** The selected thing: everything it can say, what stands in it, what it leans on and what leans on it. */
export function Thing({ design, at, go, select, change, onClose }: Props) {
  const item = useItem(design, at);
  const climb = useClimb(design);
  const draft = useDraft(design);
  const forms = useForms();
  const [making, setMaking] = useState<Making>(null);
  if (item.isError && !(item.data && unheard(item.error)))
    return (
      <section className="p-3">
        <Title kind="" title="Nothing is there any more" onClose={onClose} />
        <p className="muted">{item.error.message}</p>
      </section>
    );
  if (!item.data) return null;
  const thing = item.data;
  const value = (thing.value !== null && typeof thing.value === "object" && !Array.isArray(thing.value) ? thing.value : {}) as Record<string, unknown>;
  const fields = (thing.model && forms.data?.models[thing.model]) || [];
  const inside = (p: string) => thing.pointer !== "" && (p === thing.pointer || p.startsWith(`${thing.pointer}/`));
  const findings = climb.data?.findings.filter((f) => f.pointers.some(inside)) ?? [];
  const version = draft.data?.version ?? 0;
  const put = (key: string, next: Plain | undefined, seen?: number) => {
    const since = seen === undefined ? {} : { seen };
    const path = `${thing.pointer}/${key}`;
    if (key === "name" && typeof next === "string") change.mutate({ kind: "rename", wanted: { pointer: thing.pointer, name: next } });
    else if (key === "id" && thing.kind === "VLAN" && typeof next === "number")
      change.mutate({ kind: "rename", wanted: { pointer: thing.pointer, number: next } });
    else if (next !== undefined) change.mutate({ kind: "patch", patch: [{ op: key in value ? "replace" : "add", path, value: next }], ...since });
    else if (key in value) change.mutate({ kind: "patch", patch: [{ op: "remove", path }], ...since });
  };
  const owner = thing.pointer.split("/").slice(0, 3).join("/");
  const copy = copied(thing);
  const makes: Record<string, string> = { zone: "zone", vrf: "vrf", answers: "answers" };
  return (
    <section className="flex flex-col gap-4 p-3">
      <Title kind={thing.kind} title={thing.title} onClose={onClose} />
      <Findings design={design} change={change} select={select} findings={findings} />
      {Array.isArray(thing.value) && <p className="font-mono">{thing.value.join(" — ")}</p>}
      {fields.length > 0 && (
        <div className="flex flex-col gap-3">
          <ThingFields
            design={design}
            at={thing.pointer}
            fields={fields}
            value={value}
            kind={thing.owner_kind}
            version={version}
            onPut={put}
            onNew={(ref, field) => setMaking({ kind: makes[ref] ?? ref, at: owner, then: (name) => put(field.key, name) })}
          />
          <Inside
            lists={thing.inside}
            select={select}
            onMake={(kind) => setMaking({ kind, at: thing.pointer, then: null })}
            onPorts={thing.pointer.split("/").length === 3 ? () => setMaking({ kind: "ports" }) : null}
          />
          <Parts
            design={design}
            at={thing.pointer}
            fields={fields.filter((f) => f.editor === "part")}
            value={value}
            kind={thing.owner_kind}
            version={version}
            onPut={put}
            onMake={(kind) => setMaking({ kind, at: thing.pointer, then: null })}
            onOpen={select}
          />
        </div>
      )}
      {plugPlace(thing) !== null && <Probe key={thing.pointer} design={design} place={plugPlace(thing) ?? ""} tags={tagsOf(thing.value)} go={go} />}
      {portPlace(thing) !== null && (
        <div className="flex flex-col gap-2" key={`actions ${thing.pointer}`}>
          {takesVlans(thing.value) && <ShortForm design={design} place={portPlace(thing) ?? ""} change={change} />}
          {plugPlace(thing) !== null && <CopyPort design={design} place={plugPlace(thing) ?? ""} change={change} />}
          {takesVlans(thing.value) && thing.owner_kind && <JobForms design={design} place={portPlace(thing) ?? ""} kind={thing.owner_kind} change={change} />}
          <SwitchMode design={design} place={portPlace(thing) ?? ""} owner={owner} change={change} />
        </div>
      )}
      <Links title="Depends on" links={thing.depends_on} select={select} none="Nothing." />
      <Links title="Needed by" links={thing.needed_by} select={select} none="Nothing; it can go." />
      {copy && <Copy key={`copy ${thing.pointer}`} design={design} change={change} go={go} {...copy} />}
      {/\/\d+$/.test(thing.pointer) && <Remove design={design} thing={thing} change={change} select={select} />}
      {making?.kind === "ports" && <PortsDialog design={design} device={thing.title} change={change} onClose={() => setMaking(null)} />}
      {making && "at" in making && (
        <MakeDialog
          design={design}
          kind={making.kind}
          at={making.at}
          owner={thing.owner_kind}
          change={change}
          select={select}
          onClose={() => setMaking(null)}
          {...(making.then ? { onMade: making.then } : {})}
        />
      )}
    </section>
  );
}

type CopyOf = Pick<ComponentProps<typeof Copy>, "label" | "wanted" | "named" | "called" | "hint" | "pointer">;

/** How a thing is copied; null where it stands alone. */
function copied(thing: Schemas["Item"]): CopyOf | null {
  const { model, pointer, value } = thing;
  if (!model || !/\/\d+$/.test(pointer)) return null;
  const more = { name: "", values: {} };
  if (model === "MacVrf")
    return {
      label: "Another tenant like this",
      wanted: { action: "copy-tenant", body: { tenant: (value as { name: string }).name, ...more } },
      named: "tenant",
    };
  if (model === "Vlan")
    return {
      label: "Another VLAN like this",
      wanted: { action: "copy-segment", body: { vlan: (value as { id: number }).id, ...more } },
      named: "VLAN name",
      hint: "Access ports stay where they are.",
      pointer,
    };
  return {
    label: "Another one like this",
    wanted: { action: "copy-thing", body: { pointer, ...more } },
    named: "name",
    hint: "Nothing is cabled to it.",
    pointer,
  };
}

/** The server could not be asked: what is shown, and typed, stays. */
function unheard(error: Error): boolean {
  return !(error instanceof Refusal) || error.problem.status === 0 || error.problem.status >= 500;
}

function Title({ kind, title, onClose }: { kind: string; title: string; onClose: () => void }) {
  return (
    <header className="flex items-start gap-2">
      <div className="min-w-0 flex-1">
        <p className="eyebrow">{kind}</p>
        <h2 className="text-[15px] leading-tight font-semibold break-words">{title}</h2>
      </div>
      <button type="button" className="btn btn-ghost btn-xs btn-square" aria-label="Close, show what to mend" onClick={onClose}>
        <X size={14} />
      </button>
    </header>
  );
}

function Links({ title, links, select, none }: { title: string; links: Schemas["Link"][]; select: StageProps["select"]; none: string }) {
  return (
    <div>
      <h3 className="eyebrow mb-1">{title}</h3>
      {links.length === 0 && <p className="muted">{none}</p>}
      <ul>
        {links.map((l) => (
          <li key={l.pointer}>
            <button
              type="button"
              className="hover:bg-base-200 flex w-full cursor-pointer items-center gap-1 rounded px-1 py-0.5 text-left"
              onClick={() => select(l.pointer)}
            >
              <span className="muted w-20 shrink-0 truncate text-[12px]">{l.kind}</span>
              <span className="min-w-0 flex-1 truncate" title={l.title}>
                {l.title}
              </span>
              <ChevronRight size={12} className="muted" aria-hidden="true" />
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}
