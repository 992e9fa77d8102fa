import { useState } from "react";
import { type Copied, useCopyFields, useMakePreview } from "../../api/making";
import type { StageProps } from "../parts";
import { ActionForm, Line } from "../port/ActionForm";

interface Props extends Pick<StageProps, "design" | "change" | "go"> {
  label: string;
  /** What is copied; name and values are typed here. */
  wanted: Copied;
  /** The kind of the field that holds the name of the copy, or the name it would have. */
  named: string;
  called?: string;
  /** What the copy does not take over, in words. */
  hint?: string;
  /** The pointer of the original, where the copy stands behind it: the two can be compared then. */
  pointer?: string;
}

/** Another one like this: what has to be unique is listed with a proposal, the rest is alike; afterwards, what tells the two apart. */
export function Copy({ design, change, go, label, wanted, named, called = "", hint = "", pointer }: Props) {
  const [open, setOpen] = useState(false);
  const [name, setName] = useState("");
  const [values, setValues] = useState<Record<string, string>>({});
  const [made, setMade] = useState<string | null>(null);
  const fields = useCopyFields(design, open ? withValues(wanted, name, {}) : null);
  const preview = useMakePreview(design, open ? withValues(wanted, name, values) : null);
  const proposed = called || fields.data?.find((f) => f.kind === named)?.proposed;
  const listed = fields.data?.filter((f) => f.kind !== named) ?? [];
  const done = () => {
    setName("");
    setValues({});
    const devices = preview.data?.patch.find((op) => /^\/devices\/\d+$/.test(String(op["path"])));
    if (pointer) setMade(pointer.startsWith("/devices/") && pointer.split("/").length === 3 ? String(devices?.["path"] ?? "") : next(pointer));
  };
  return (
    <ActionForm label={label} verb="Make it" preview={open ? preview : null} change={change} onDone={done} onOpen={setOpen}>
      {proposed && <Line label="name" value={name} onChange={setName} placeholder={proposed} />}
      {listed.length > 0 && <p className="muted text-[12px]">Each of these may stand once only; what you leave is as proposed. {hint}</p>}
      {listed.map((f, k) => {
        const key = `${f.kind} ${f.was}`;
        return (
          <Line
            key={`${key} ${k}`}
            label={key}
            value={values[key] ?? ""}
            onChange={(text) => setValues({ ...values, [key]: text })}
            placeholder={f.proposed || "goes without"}
            stacked
          />
        );
      })}
      {made && pointer && (
        <button type="button" className="link-quiet self-start text-[12px]" onClick={() => go({ stage: "history", step: "siblings", one: pointer, two: made })}>
          It is made. See what tells it from its original
        </button>
      )}
    </ActionForm>
  );
}

function withValues(wanted: Copied, name: string, values: Record<string, string>): Copied {
  return { ...wanted, body: { ...wanted.body, name: name.trim(), values } } as Copied;
}

/** The pointer of what stands behind a thing in its list. */
function next(pointer: string): string {
  const at = pointer.lastIndexOf("/");
  return `${pointer.slice(0, at)}/${Number(pointer.slice(at + 1)) + 1}`;
}
