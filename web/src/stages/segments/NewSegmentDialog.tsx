import { type ReactNode, useState } from "react";
import { workedOut } from "../../api/making";
import { useNewSegmentPreview, useSegmentOptions, useSuggestedSubnet } from "../../api/queries";
import { Dialog } from "../../parts/Dialog";
import { PreviewBox } from "../../parts/PreviewBox";
import { useSettled } from "../../parts/useSettled";
import type { StageProps } from "../../shell/parts";
import { byDevice, emptySegment, type Options, proposed, type Purpose, type SegmentForm, wantedOf } from "./newSegment";

type Props = Pick<StageProps, "design" | "change"> & {
  /** The purpose to begin with. */
  purpose: Purpose;
  onClose: () => void;
};

/** A segment in one go: a name and a purpose, and everything else follows, shown before it is made. */
export function NewSegmentDialog({ onClose, ...rest }: Props) {
  const options = useSegmentOptions(rest.design);
  return (
    <Dialog label="New segment" onClose={onClose} wide>
      {options.data ? <Form {...rest} onClose={onClose} options={options.data} /> : <p>working it out…</p>}
    </Dialog>
  );
}

function Form({ design, change, purpose, onClose, options }: Props & { options: Options }) {
  const [form, setForm] = useState<SegmentForm>({ ...emptySegment, purpose });
  const put = (part: Partial<SegmentForm>) => setForm({ ...form, ...part });
  const { vlan, firewall, port } = proposed(form, options);
  const suggested = useSuggestedSubnet(design, Number(vlan));
  const typed = wantedOf(form, options);
  const wanted = useSettled(typed);
  const preview = useNewSegmentPreview(design, wanted);
  const ready = JSON.stringify(typed) === JSON.stringify(wanted) ? workedOut(preview) : null;
  const turn = (place: string) => put({ ports: form.ports.includes(place) ? form.ports.filter((p) => p !== place) : [...form.ports, place] });
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(e) => {
        e.preventDefault();
        if (!ready) return;
        change.mutate({ kind: "patch", patch: ready.patch });
        onClose();
      }}
    >
      <h2 className="text-base font-semibold">New segment</h2>
      <div className="grid grid-cols-[1fr_6rem_1fr] gap-3">
        <Labelled label="name">
          <input className={FIELD} value={form.name} onChange={(e) => put({ name: e.target.value })} autoFocus />
        </Labelled>
        <Labelled label="VLAN">
          <input className={`${FIELD} font-mono`} value={vlan} onChange={(e) => put({ vlan: e.target.value })} />
        </Labelled>
        {form.purpose !== "switched" && (
          <Labelled label="subnet, by the site's pattern">
            <input
              className={`${FIELD} font-mono`}
              value={form.subnet ?? suggested.data ?? ""}
              placeholder="10.64.125.0/24"
              onChange={(e) => put({ subnet: e.target.value })}
            />
          </Labelled>
        )}
      </div>
      <fieldset className="grid grid-cols-2 gap-2">
        <legend className="muted mb-0.5 text-[12px]">what it is for</legend>
        {Object.entries(options.purposes).map(([purpose, words]) => (
          <label
            key={purpose}
            className={`flex cursor-pointer items-start gap-2 rounded border px-2 py-1.5 ${form.purpose === purpose ? "border-primary bg-primary/10" : "hair"}`}
          >
            <input
              type="radio"
              name="purpose"
              className="radio radio-xs radio-primary mt-0.5"
              value={purpose}
              checked={form.purpose === purpose}
              onChange={() => put({ purpose: purpose as Purpose })}
            />
            <span>
              <strong className="font-semibold">{purpose}</strong> <span className="muted">{words}</span>
            </span>
          </label>
        ))}
      </fieldset>
      {form.purpose !== "switched" && (
        <div className="grid grid-cols-3 gap-3">
          <Labelled label="firewall">
            <select className="select select-sm w-full" value={firewall} onChange={(e) => put({ firewall: e.target.value, port: null, zone: null })}>
              {Object.keys(options.firewalls).map((name) => (
                <option key={name}>{name}</option>
              ))}
            </select>
          </Labelled>
          <Labelled label="its port or bundle">
            <select className="select select-sm w-full" value={port} onChange={(e) => put({ port: e.target.value })}>
              {options.firewalls[firewall]?.map((name) => (
                <option key={name}>{name}</option>
              ))}
            </select>
          </Labelled>
          <Labelled label="zone">
            <select className="select select-sm w-full" value={form.zone ?? ""} onChange={(e) => put({ zone: e.target.value || null })}>
              <option value="">a new one of its name</option>
              {options.zones[firewall]?.map((name) => (
                <option key={name}>{name}</option>
              ))}
            </select>
          </Labelled>
        </div>
      )}
      {(form.purpose === "inside" || form.purpose === "visitors") && (
        <label className="flex items-center gap-2">
          <input type="checkbox" className="toggle toggle-sm toggle-primary" checked={form.out} onChange={(e) => put({ out: e.target.checked })} />
          may ask the outside (web, names, time)
        </label>
      )}
      <fieldset>
        <legend className="muted text-[12px]">ports whose hosts stand in it; the uplinks between follow by themselves</legend>
        {byDevice(options.ports).map(([device, ports]) => (
          <p key={device} className="flex flex-wrap items-center gap-1 py-0.5">
            <span className="w-24 shrink-0 truncate">{device}</span>
            {ports.map((name) => {
              const place = `${device}:${name}`;
              const on = form.ports.includes(place);
              return (
                <button
                  key={name}
                  type="button"
                  aria-pressed={on}
                  aria-label={place}
                  className={`h-6 min-w-6 cursor-pointer rounded border px-1 font-mono text-[12px] ${on ? "bg-primary text-primary-content border-primary" : "hair hover:bg-base-200"}`}
                  onClick={() => turn(place)}
                >
                  {name}
                </button>
              );
            })}
          </p>
        ))}
      </fieldset>
      <PreviewBox preview={wanted ? preview : null} hint="Give it a name, and everything it brings along is shown here." />
      <p className="flex justify-end gap-2">
        <button type="button" className="btn btn-ghost btn-sm" onClick={onClose}>
          Cancel
        </button>
        <button type="submit" className="btn btn-primary btn-sm" disabled={!ready}>
          Make it
        </button>
      </p>
    </form>
  );
}

const FIELD = "hair bg-base-100 h-8 w-full rounded border px-2";

function Labelled({ label, children }: { label: string; children: ReactNode }) {
  return (
    <label className="flex flex-col gap-0.5">
      <span className="muted text-[12px]">{label}</span>
      {children}
    </label>
  );
}
