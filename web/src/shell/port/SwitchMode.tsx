import { useState } from "react";
import { useItem, useModePreview } from "../../api/queries";
import type { StageProps } from "../parts";
import { ActionForm, Choice, Line } from "./ActionForm";
import { emptyMode, MODE_WORDS, type ModeKind, newMode, zonesFor } from "./model";

interface Props extends Pick<StageProps, "design" | "change"> {
  place: string;
  /** Pointer of the device. */
  owner: string;
}

/** Switch the port to another mode: what goes with it, and what it still lacks, is said before. */
export function SwitchMode({ design, place, owner, change }: Props) {
  const [form, setForm] = useState(emptyMode);
  const device = useItem(design, owner);
  const asked = newMode(place, form);
  const preview = useModePreview(design, asked);
  const put = (part: Partial<typeof form>) => setForm({ ...form, ...part });
  const zones = zonesFor(device.data?.value, form.mode);
  return (
    <ActionForm label="Switch its mode" verb="Switch" preview={asked && preview} change={change} onDone={() => setForm(emptyMode)}>
      <Choice
        label="mode"
        value={form.mode}
        onChange={(mode) => setForm({ ...emptyMode, mode: mode as ModeKind })}
        options={[["", "choose"], ...Object.entries(MODE_WORDS)]}
      />
      {form.mode === "bridged" && <Line label="untagged" value={form.vlan} onChange={(vlan) => put({ vlan })} placeholder="none" />}
      {form.mode === "bridged" && <Line label="tagged" value={form.tagged} onChange={(tagged) => put({ tagged })} placeholder="none" />}
      {form.mode === "routed" && <Line label="addresses" value={form.addresses} onChange={(addresses) => put({ addresses })} placeholder="none yet" />}
      {form.mode === "inline" && <Line label="pair with" value={form.pairWith} onChange={(pairWith) => put({ pairWith })} placeholder="port" />}
      {form.mode === "lag" && <Line label="bundle" value={form.lag} onChange={(lag) => put({ lag })} />}
      {zones.length > 0 && (
        <Choice label="zone" value={form.zone} onChange={(zone) => put({ zone })} options={[["", "none yet"], ...zones.map((z): [string, string] => [z, z])]} />
      )}
    </ActionForm>
  );
}
