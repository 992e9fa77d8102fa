import { Plus } from "lucide-react";
import { useState } from "react";
import { useMakePreview, workedOut } from "../../api/making";
import { Segmented } from "../../parts/Segmented";
import type { StageProps } from "../../shell/parts";
import { KindSign } from "./Drawing";
import { BOX_KINDS, type BoxKind, kindWord, nameFor, PORTS_FOR } from "./model";

interface Props extends Pick<StageProps, "design" | "change"> {
  /** Names that are taken. */
  names: string[];
  /** Defaults to false: in the middle of an empty stage. */
  large?: boolean;
}

/** A new box in one line: what it is, what it is called, how its ports are called. */
export function AddBox({ design, change, names, large = false }: Props) {
  const [kind, setKind] = useState<BoxKind>("switch");
  const [typed, setTyped] = useState<{ name: string | null; ports: string | null; routing: boolean }>({ name: null, ports: null, routing: false });
  const name = typed.name ?? nameFor(kind, names);
  const ports = typed.ports ?? PORTS_FOR[kind];
  const wanted =
    name.trim() === "" ? null : ({ action: "new-device", body: { kind, name: name.trim(), ports, routing: kind === "switch" && typed.routing } } as const);
  const preview = useMakePreview(design, wanted);
  const ready = wanted && workedOut(preview);
  return (
    <form
      aria-label="Add a box"
      className={`flex flex-wrap items-end gap-3 ${large ? "hair bg-base-100 max-w-3xl rounded-md border p-4" : "hair border-t px-4 py-2"}`}
      onSubmit={(e) => {
        e.preventDefault();
        if (!ready) return;
        change.mutate({ kind: "patch", patch: ready.patch });
        setTyped({ name: null, ports: typed.ports, routing: false });
      }}
    >
      <Segmented
        label="Kind"
        chosen={kind}
        onChoose={(k) => (setKind(k), setTyped({ ...typed, name: null, ports: null }))}
        options={BOX_KINDS.map((k) => [
          k,
          <>
            <svg width="20" height="15" viewBox="4 0 20 15" aria-hidden="true" className={k === kind ? "[&_g]:stroke-neutral-content" : ""}>
              <KindSign kind={k} middle={7.5} />
            </svg>
            {kindWord(k)}
          </>,
        ])}
      />
      <label className="flex flex-col gap-0.5">
        <span className="muted text-[12px]">name</span>
        <input
          className="hair bg-base-100 h-8 w-36 rounded border px-2"
          value={name}
          onFocus={(e) => e.currentTarget.select()}
          onChange={(e) => setTyped({ ...typed, name: e.target.value })}
        />
      </label>
      {kind !== "endpoint" && kind !== "outside" && (
        <label className="flex flex-col gap-0.5">
          <span className="muted text-[12px]">ports</span>
          <input
            className="hair bg-base-100 h-8 w-32 rounded border px-2 font-mono text-[12px]"
            placeholder="1-24, a-d…"
            title="1-24, 1/0/1-24, a-d, or several with commas"
            value={ports}
            onChange={(e) => setTyped({ ...typed, ports: e.target.value })}
          />
        </label>
      )}
      {kind === "switch" && (
        <label className="flex h-8 items-center gap-1.5">
          <input type="checkbox" className="checkbox checkbox-sm" checked={typed.routing} onChange={(e) => setTyped({ ...typed, routing: e.target.checked })} />
          routes as well
        </label>
      )}
      <button type="submit" className="btn btn-primary btn-sm h-8" disabled={!ready}>
        <Plus size={14} aria-hidden="true" /> Add it
      </button>
      {preview.isError && wanted && (
        <p role="alert" className="text-error basis-full">
          {preview.error.message}
        </p>
      )}
    </form>
  );
}
