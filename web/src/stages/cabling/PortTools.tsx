import { useState } from "react";
import { useMakePreview, type Wanted, workedOut } from "../../api/making";
import type { StageProps } from "../../shell/parts";
import type { Box } from "./model";

interface Props extends Pick<StageProps, "design" | "change"> {
  box: Box;
  /** The ports that are chosen. */
  chosen: string[];
  onDone: () => void;
}

/** What can be made of the ports that are chosen: a bundle; of a firewall also an inline pair, or a little switch with a gateway. */
export function PortTools({ design, change, box, chosen, onDone }: Props) {
  const [name, setName] = useState("");
  const bundle: Wanted | null =
    chosen.length > 0 && name.trim() !== ""
      ? { action: "bundle", body: { device: box.device, ports: chosen.join(", "), name: name.trim(), protocol: "lacp-active", far: true } }
      : null;
  const inline: Wanted | null =
    chosen.length === 2 && box.kind === "firewall" && name.trim() !== ""
      ? { action: "inline-pair", body: { device: box.device, ports: chosen.join(", "), name: name.trim() } }
      : null;
  const one = useMakePreview(design, bundle);
  const two = useMakePreview(design, inline);
  const little: Wanted | null =
    chosen.length > 1 && box.kind === "firewall" && name.trim() !== ""
      ? { action: "little-switch", body: { firewall: box.device, ports: chosen.join(", "), name: name.trim() } }
      : null;
  const three = useMakePreview(design, little);
  const make = (wanted: Wanted | null, made: typeof one, words: string) => (
    <button
      type="button"
      className="btn btn-primary btn-xs h-7"
      disabled={!wanted || !workedOut(made)}
      onClick={() => {
        if (!made.data) return;
        change.mutate({ kind: "patch", patch: made.data.patch });
        onDone();
      }}
    >
      {words}
    </button>
  );
  return (
    <p className="mt-1 flex flex-wrap items-center gap-2" data-testid="port-tools">
      <span>
        <strong className="font-mono">{chosen.join(", ") || "none"}</strong> chosen
      </span>
      <input
        className="hair bg-base-100 h-7 w-36 rounded border px-2"
        aria-label="Name of the bundle or pair"
        placeholder="what to call it"
        value={name}
        onChange={(e) => setName(e.target.value)}
      />
      {make(bundle, one, "Bundle them")}
      {box.kind === "firewall" && make(inline, two, "Make an inline pair")}
      {box.kind === "firewall" && make(little, three, "Make a little switch")}
      {one.isError && bundle && (
        <span role="alert" className="text-error">
          {one.error.message}
        </span>
      )}
    </p>
  );
}
