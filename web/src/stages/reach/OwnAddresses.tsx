import { ChevronRight } from "lucide-react";
import { useState } from "react";
import { useOwnAddresses } from "../../api/queries";
import type { StageProps } from "../../shell/parts";
import { VerdictSign } from "../../theme/signs";

/** The firewalls' own addresses, folded away below the matrix: who may ask what of the boxes themselves. */
export function OwnAddresses({ design, select }: StageProps) {
  const [open, setOpen] = useState(false);
  const own = useOwnAddresses(design, open);
  const told = own.data;
  const columns = told?.columns ?? [];
  const flows = (segment: string, column: number) => told?.cells.find((c) => c.segment === segment && c.column === column)?.flows ?? [];
  const asking = told?.segments.filter((s) => columns.some((_, k) => flows(s, k).length > 0)) ?? [];
  return (
    <section className="px-4 pb-1" aria-label="The boxes' own addresses">
      <button type="button" aria-expanded={open} className="link-quiet flex items-center gap-1" onClick={() => setOpen(!open)}>
        <ChevronRight size={14} aria-hidden="true" className={open ? "rotate-90" : ""} />
        The boxes&rsquo; own addresses
        {told && (
          <span className="muted">
            · asked by {asking.length} of {told.segments.length} segments
          </span>
        )}
      </button>
      {open && told && (
        <div className="overflow-x-auto">
          <table className="border-separate border-spacing-0 text-[12px]">
            <thead>
              <tr>
                <th className="muted pr-3 text-left font-normal">answers to</th>
                {columns.map((c) => (
                  <th key={c.address} scope="col" className="hair border-b px-2 text-left font-normal">
                    <button
                      type="button"
                      className="link-quiet block text-left leading-tight whitespace-nowrap"
                      onClick={() => select(c.pointer)}
                      title={`answers: ${c.answers}`}
                    >
                      {c.device} {c.interface}
                      <span className="muted block font-mono text-[11px]">{c.address}</span>
                    </button>
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {asking.map((s) => (
                <tr key={s}>
                  <th scope="row" className="pr-3 text-left font-normal whitespace-nowrap">
                    {s}
                  </th>
                  {columns.map((c, k) => {
                    const said = flows(s, k);
                    const text = [...new Set(said.map((f) => f["services"]))].join("; ");
                    const from = said.map((f) => `${f["sources"]}: ${f["services"]}`).join("; ");
                    return (
                      <td key={c.address} className="hair border-t px-2 align-top" title={from || "nothing is answered"}>
                        {said.length ? (
                          <span className="flex items-center gap-1">
                            <VerdictSign tone="open" verdict="some" layer={null} size={13} /> {text}
                          </span>
                        ) : (
                          <span className="muted">·</span>
                        )}
                      </td>
                    );
                  })}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </section>
  );
}
