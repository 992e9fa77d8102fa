import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useMakePreview, useSegmentFields } from "../../api/making";
import type { StageProps } from "../parts";
import { ActionForm, Line } from "../port/ActionForm";

/** Another VLAN like this one: the same trunks, a gateway, leases, zone and routing like its; what has to be unique is listed with a proposal. */
export function CopySegment({ design, vlan, change }: Pick<StageProps, "design" | "change"> & { vlan: number }) {
  const [open, setOpen] = useState(false);
  const [name, setName] = useState("");
  const [values, setValues] = useState<Record<string, string>>({});
  const wanted: Schemas["CopySegment"] = { vlan, name: name.trim(), values };
  const fields = useSegmentFields(design, open ? { ...wanted, values: {} } : null);
  const preview = useMakePreview(design, open ? { action: "copy-segment", body: wanted } : null);
  const done = () => {
    setName("");
    setValues({});
  };
  const called = fields.data?.find((f) => f.kind === "VLAN name");
  return (
    <ActionForm label="Another VLAN like this" verb="Make it" preview={open ? preview : null} change={change} onDone={done} onOpen={setOpen}>
      <Line label="name" value={name} onChange={setName} placeholder={called?.proposed ?? ""} />
      <p className="muted text-[12px]">Each of these may stand once only; what you leave is as proposed. Access ports stay where they are.</p>
      {fields.data
        ?.filter((f) => f.kind !== "VLAN name")
        .map((f) => {
          const key = `${f.kind} ${f.was}`;
          return (
            <Line key={key} label={key} value={values[key] ?? ""} onChange={(text) => setValues({ ...values, [key]: text })} placeholder={f.proposed} stacked />
          );
        })}
    </ActionForm>
  );
}
