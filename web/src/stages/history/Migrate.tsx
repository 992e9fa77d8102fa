import { useState } from "react";
import { type Asked, useAsked, useMigration } from "../../api/migrations";
import { Working } from "../../parts/Empty";
import { PreviewBox } from "../../parts/PreviewBox";
import type { StageProps } from "../../shell/parts";
import { Sums } from "./FloorView";
import { Steps } from "./Steps";

const KINDS: [string, string][] = [
  ["renumber", "a subnet gets other addresses"],
  ["move-gateway", "a VLAN's gateway moves to another box"],
  ["inline-to-routed", "an inline pair of ports becomes routed"],
  ["bridged-to-routed", "bridged ports become routed"],
  ["routed-to-bridged", "routed ports become bridged"],
  ["single-to-pair", "one firewall becomes a pair"],
];

/** From what is there to what is to be: what only a person can know is asked for, the rest proposed; the edit and the steps between are shown before. */
export function Migrate({ design, may, change, onMade }: Pick<StageProps, "design" | "change"> & { may: boolean; onMade: () => void }) {
  const [kind, setKind] = useState("renumber");
  const [said, setSaid] = useState<Record<string, string>>({});
  const asked = useAsked(design, { kind, ...said });
  const fields = asked.data ?? [];
  const lacking = fields.filter((f) => f.needed && !f.value);
  const plan = asked.data && !asked.isPlaceholderData && lacking.length === 0 ? { kind, ...valuesOf(fields) } : null;
  const found = useMigration(design, plan);
  const made = plan && found.data && !found.isPlaceholderData && !found.isError ? found.data : null;
  const put = (key: string, value: string) => setSaid({ ...said, [key]: value });
  return (
    <section className="grid min-h-0 grid-cols-[16.500rem_minmax(0,1fr)] gap-4" aria-label="Migration">
      <form
        className="flex min-h-0 flex-col gap-2 overflow-y-auto pr-1"
        onSubmit={(e) => {
          e.preventDefault();
          if (made) change.mutate({ kind: "patch", patch: made.preview.patch }, { onSuccess: onMade });
        }}
      >
        <h2 className="font-semibold">Migration</h2>
        <select
          className="select select-sm w-full"
          aria-label="What is to become of it"
          value={kind}
          onChange={(e) => {
            setKind(e.target.value);
            setSaid({});
          }}
        >
          {KINDS.map(([value, words]) => (
            <option key={value} value={value}>
              {words}
            </option>
          ))}
        </select>
        {asked.isError && <p className="text-error">{asked.error?.message}</p>}
        {fields.map((f) => (
          <Field key={`${kind} ${f.key}`} field={f} said={said[f.key] ?? ""} onPut={(text) => put(f.key, text)} />
        ))}
        <PreviewBox
          preview={plan ? { ...found, data: found.data?.preview } : null}
          hint={lacking.length > 0 ? `Still to say: ${lacking.map((f) => f.key).join(", ")}.` : "…"}
        />
        <button type="submit" className="btn btn-primary btn-sm self-end" disabled={!may || !made || change.isPending}>
          Make it in the draft
        </button>
      </form>
      <div className="min-h-0 overflow-y-auto">
        {plan && !found.data && !found.isError && <Working />}
        {made && (
          <>
            <Notes words="To decide yourself" lines={made.open} tone="text-error" />
            <Notes words="Taken for granted" lines={made.assumed} tone="muted" />
            <h3 className="eyebrow mt-1 mb-1">The steps between</h3>
            <Sums view={made.build} other={null} />
            <Steps steps={made.build.steps} />
          </>
        )}
      </div>
    </section>
  );
}

function valuesOf(fields: Asked[]): Record<string, string> {
  return Object.fromEntries(fields.filter((f) => f.value).map((f) => [f.key, f.value]));
}

function Field({ field, said, onPut }: { field: Asked; said: string; onPut: (text: string) => void }) {
  return (
    <label className="flex flex-col gap-0.5">
      <span className="text-[12px]">{field.says.replace(/\.$/, "")}</span>
      {field.choices.length > 0 ? (
        <select className="select select-xs h-7 w-full font-mono" aria-label={field.key} value={field.value} onChange={(e) => onPut(e.target.value)}>
          <option value="">{field.needed ? "choose…" : "—"}</option>
          {field.choices.map((c) => (
            <option key={c} value={c}>
              {c}
            </option>
          ))}
        </select>
      ) : (
        <input
          className="hair bg-base-100 h-7 min-w-0 rounded border px-2 font-mono text-[12px]"
          aria-label={field.key}
          value={said}
          placeholder={field.value || (field.needed ? "" : "left out")}
          onChange={(e) => onPut(e.target.value)}
        />
      )}
    </label>
  );
}

function Notes({ words, lines, tone }: { words: string; lines: string[]; tone: string }) {
  if (lines.length === 0) return null;
  return (
    <dl className="mb-2 text-[12px]">
      <dt className={`font-semibold ${tone}`}>{words}</dt>
      {lines.map((line) => (
        <dd key={line} className="border-base-300 border-l-2 pl-2">
          {line}
        </dd>
      ))}
    </dl>
  );
}
