import { useState } from "react";
import { useShortFormPreview } from "../../api/queries";
import type { StageProps } from "../parts";
import { ActionForm, Choice, Line } from "./ActionForm";
import { type FormKind, FORM_WORDS, shortForm } from "./model";

/** Set this port, and others with it, by a short form: access, trunk, or a desk with a telephone. */
export function ShortForm({ design, place, change }: Pick<StageProps, "design" | "change"> & { place: string }) {
  const [device = "", port = ""] = place.split(":");
  const [form, setForm] = useState<FormKind>("access");
  const [ports, setPorts] = useState(port);
  const [vlan, setVlan] = useState("");
  const [tagged, setTagged] = useState("");
  const asked = shortForm({ device, ports, form, vlan, tagged });
  const preview = useShortFormPreview(design, asked);
  return (
    <ActionForm
      label="Set its VLANs in short"
      verb="Set"
      preview={asked && preview}
      change={change}
      onDone={() => {
        setVlan("");
        setTagged("");
      }}
    >
      <Choice label="form" value={form} onChange={(text) => setForm(text as FormKind)} options={Object.entries(FORM_WORDS)} />
      {form !== "trunk" && <Line label={form === "voice" ? "data VLAN" : "VLAN"} value={vlan} onChange={setVlan} />}
      {form === "voice" && <Line label="voice VLAN" value={tagged} onChange={setTagged} />}
      {form === "trunk" && <Line label="tagged" value={tagged} onChange={setTagged} placeholder="110, 150-152" />}
      {form === "trunk" && <Line label="native" value={vlan} onChange={setVlan} placeholder="none" />}
      <Line label="ports" value={ports} onChange={setPorts} placeholder="2-5, 8" />
    </ActionForm>
  );
}
