import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useExposure } from "../../api/queries";
import { Dialog } from "../../parts/Dialog";
import type { StageProps } from "../../shell/parts";

/** What one address reaches, and who reaches it. */
export function ExposureDialog({ design, go, start = "", onClose }: Pick<StageProps, "design" | "go"> & { start?: string; onClose: () => void }) {
  const [text, setText] = useState(start);
  const [place, setPlace] = useState(start);
  const found = useExposure(design, place);
  const pair = (from: string, to: string) => {
    go({ pair: { from, to }, packet: null });
    onClose();
  };
  return (
    <Dialog label="Exposure" onClose={onClose} wide>
      <h2 className="text-base font-semibold">Exposure</h2>
      <form
        className="mt-2 flex gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          setPlace(text.trim());
        }}
      >
        <input
          className="hair bg-base-100 h-8 flex-1 rounded border px-2 font-mono text-[12px]"
          aria-label="Address, endpoint, segment or device:port"
          placeholder="an address, an endpoint, a segment, device:port"
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
        <button type="submit" className="btn btn-primary btn-sm">
          Look
        </button>
      </form>
      {found.isError && (
        <p role="alert" className="text-error mt-3">
          {found.error.message}
        </p>
      )}
      {found.data?.map((e) => (
        <section key={e.address} className="mt-4" data-testid="exposure">
          <h3 className="font-semibold">
            <span className="font-mono">{e.address}</span> <span className="muted font-normal">in {e.segment}</span>
          </h3>
          <div className="mt-1 grid grid-cols-2 gap-6">
            <Ends title="reaches" ends={e.reaches} onPick={(s) => pair(e.segment, s)} />
            <Ends title="is reached by" ends={e.reached_by} onPick={(s) => pair(s, e.segment)} />
          </div>
        </section>
      ))}
      {found.data?.length === 0 && <p className="muted mt-3">No host of a segment has this address.</p>}
    </Dialog>
  );
}

function Ends({ title, ends, onPick }: { title: string; ends: Schemas["Exposed"][]; onPick: (segment: string) => void }) {
  return (
    <div>
      <h4 className="eyebrow">{title}</h4>
      {ends.length === 0 && <p className="muted">nobody</p>}
      <ul className="max-h-56 overflow-y-auto">
        {ends.map((x) => (
          <li key={x.segment} className="hair border-b py-1">
            <button type="button" className="link-quiet font-medium" onClick={() => onPick(x.segment)}>
              {x.segment}
            </button>
            {!x.whole && <span className="muted text-[11px]"> some hosts</span>}
            <p className="text-primary font-mono text-[12px]">{x.services}</p>
          </li>
        ))}
      </ul>
    </div>
  );
}
