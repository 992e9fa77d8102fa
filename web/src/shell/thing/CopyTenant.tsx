import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useMakePreview, useTenantFields } from "../../api/making";
import type { StageProps } from "../parts";
import { ActionForm, Line } from "../port/ActionForm";

/** Another tenant like this one, on every box: what has to be unique is listed with a proposal, and nothing may stay alike. */
export function CopyTenant({ design, tenant, change }: Pick<StageProps, "design" | "change"> & { tenant: string }) {
  const [open, setOpen] = useState(false);
  const [name, setName] = useState("");
  const [values, setValues] = useState<Record<string, string>>({});
  const wanted: Schemas["CopyTenant"] = { tenant, name: name.trim(), values };
  const fields = useTenantFields(design, open ? { ...wanted, values: {} } : null);
  const preview = useMakePreview(design, open ? { action: "copy-tenant", body: wanted } : null);
  const done = () => {
    setName("");
    setValues({});
  };
  return (
    <ActionForm label="Another tenant like this" verb="Make it" preview={open ? preview : null} change={change} onDone={done} onOpen={setOpen}>
      <Line label="name" value={name} onChange={setName} placeholder={`${tenant}-2`} />
      <p className="muted text-[12px]">Each of these may stand once only; what you leave is as proposed.</p>
      {fields.data?.map((f) => {
        const key = `${f.kind} ${f.was}`;
        return (
          <Line key={key} label={key} value={values[key] ?? ""} onChange={(text) => setValues({ ...values, [key]: text })} placeholder={f.proposed} stacked />
        );
      })}
    </ActionForm>
  );
}
