import { Cable } from "lucide-react";
import { useId, useState } from "react";
import { useMakePreview, workedOut } from "../../api/making";
import type { StageProps } from "../../shell/parts";
import { shown } from "../../shell/consequences";
import type { Cabling } from "./model";

export interface Ends {
  one: string;
  two: string;
}

/** One cable, or several side by side, typed: `hall-sw:21-24` to `gate-a:2-5`; or as it was dragged from box to box. */
export function CableMany({ design, change, cabling, led }: Pick<StageProps, "design" | "change"> & { cabling: Cabling; led: Ends }) {
  const [ends, setEnds] = useState(led);
  const list = useId();
  const wanted = ends.one.includes(":") && ends.two.includes(":") ? ({ action: "new-cables", body: ends } as const) : null;
  const preview = useMakePreview(design, wanted);
  const ready = wanted && workedOut(preview);
  const jacks = cabling.boxes.flatMap((b) => b.jacks.filter((j) => j.free).map((j) => `${b.name}:${j.name}`));
  const count = ready ? ready.words.filter((w) => w.kind === "Cable").length : 0;
  const field = "hair bg-base-100 h-8 w-44 rounded border px-2 font-mono text-[12px]";
  return (
    <form
      aria-label="Plug cables in"
      className="hair flex flex-wrap items-end gap-3 border-t px-4 py-2"
      onSubmit={(e) => {
        e.preventDefault();
        if (!ready) return;
        change.mutate({ kind: "patch", patch: ready.patch });
        setEnds({ one: "", two: "" });
      }}
    >
      <datalist id={list}>
        {jacks.slice(0, 400).map((j) => (
          <option key={j} value={j} />
        ))}
      </datalist>
      <label className="flex flex-col gap-0.5">
        <span className="muted text-[12px]">from</span>
        <input
          className={field}
          list={list}
          placeholder="box:ports, as sw1:21-24"
          value={ends.one}
          onChange={(e) => setEnds({ ...ends, one: e.target.value })}
        />
      </label>
      <label className="flex flex-col gap-0.5">
        <span className="muted text-[12px]">to</span>
        <input className={field} list={list} placeholder="box:ports" value={ends.two} onChange={(e) => setEnds({ ...ends, two: e.target.value })} />
      </label>
      <button type="submit" className="btn btn-primary btn-sm h-8" disabled={!ready}>
        <Cable size={14} aria-hidden="true" /> {count > 1 ? `Plug ${count} in` : "Plug it in"}
      </button>
      {ready && (
        <span className="muted pb-1.5">
          {shown(ready.consequences)
            .map((g) => g.words)
            .join(", ") || "nothing opens or closes by it"}
        </span>
      )}
      {preview.isError && wanted && (
        <p role="alert" className="text-error basis-full">
          {preview.error.message}
        </p>
      )}
    </form>
  );
}
