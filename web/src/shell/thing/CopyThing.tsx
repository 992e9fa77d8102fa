import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useMakePreview } from "../../api/making";
import type { StageProps } from "../parts";
import { ActionForm, Line } from "../port/ActionForm";

/** Another one like this: with a name, number and addresses of its own, the rest alike. */
export function CopyThing({ design, thing, change }: Pick<StageProps, "design" | "change"> & { thing: Schemas["Item"] }) {
  const [open, setOpen] = useState(false);
  const [name, setName] = useState("");
  const preview = useMakePreview(design, open ? { action: "copy-thing", body: { pointer: thing.pointer, name: name.trim() } } : null);
  const named = thing.value !== null && typeof thing.value === "object" && "name" in thing.value;
  return (
    <ActionForm label="Another one like this" verb="Make it" preview={open ? preview : null} change={change} onDone={() => setName("")} onOpen={setOpen}>
      {named && <Line label="name" value={name} onChange={setName} placeholder="the next that is free" />}
    </ActionForm>
  );
}
