import { useState } from "react";
import { useSiblings } from "../../api/history";
import { useNames } from "../../api/queries";
import { Empty, Working } from "../../parts/Empty";
import type { StageProps } from "../../shell/parts";

const KINDS = [
  "Port",
  "Unit",
  "VLAN",
  "VRF",
  "Bundle",
  "VLAN interface",
  "Subinterface",
  "Zone",
  "Rule",
  "Switch",
  "Router",
  "Firewall",
  "Endpoint",
  "Inline pair",
  "DHCP",
];

/** The device a thing is part of, by the head of its title. */
function headOf(title: string): string {
  return title.split(" ")[0] ?? "";
}

/** Two things of one kind side by side: what differs, and was probably meant to be alike. */
export function SiblingsView({ design, place, go, select }: StageProps) {
  const names = useNames(design);
  const links = names.data ?? [];
  const kinds = KINDS.filter((k) => links.filter((l) => l.kind === k).length > 1);
  const given = links.find((l) => l.pointer === place.one);
  const [chosen, setChosen] = useState<string | null>(null);
  const kind = given?.kind ?? chosen ?? kinds[0] ?? "Port";
  const known = links.filter((l) => l.kind === kind);
  const twins = known.find((l, k) => k > 0 && headOf(l.title) === headOf(known[k - 1]?.title ?? ""));
  const first = twins ? known[known.indexOf(twins) - 1] : known[0];
  const one = given ? place.one : (first?.pointer ?? null);
  const two = known.some((l) => l.pointer === place.two)
    ? place.two
    : ((
        known.find((l) => l.pointer !== one && headOf(l.title) === headOf(known.find((k) => k.pointer === one)?.title ?? "")) ??
        known.find((l) => l.pointer !== one)
      )?.pointer ?? null);
  const found = useSiblings(design, one, two);
  if (!names.data) return <Working />;
  if (kinds.length === 0)
    return <Empty title="Nothing has a sibling yet" hint="Two ports, two VLANs, two VRFs, two rules: as soon as there are two, they can be compared." />;
  const choose = (which: "one" | "two") => (
    <select
      className="select select-sm w-56"
      aria-label={which === "one" ? "The one" : "The other"}
      value={(which === "one" ? one : two) ?? ""}
      onChange={(e) => go(which === "one" ? { one: e.target.value, two } : { one, two: e.target.value })}
    >
      {known.map((l) => (
        <option key={l.pointer} value={l.pointer}>
          {l.title}
        </option>
      ))}
    </select>
  );
  const rows = [...(found.data?.unlike ?? [])].sort((a, b) => Number(b.meant) - Number(a.meant));
  const meant = rows.filter((u) => u.meant).length;
  return (
    <div className="flex min-h-0 flex-1 flex-col px-4 pb-4">
      <div className="mb-3 flex flex-wrap items-center gap-2">
        <select
          className="select select-sm w-36"
          aria-label="Kind of thing"
          value={kind}
          onChange={(e) => {
            setChosen(e.target.value);
            go({ one: null, two: null });
          }}
        >
          {kinds.map((k) => (
            <option key={k}>{k}</option>
          ))}
        </select>
        {choose("one")}
        <span className="muted">beside</span>
        {choose("two")}
      </div>
      {found.isError && <p className="text-error">{found.error.message}</p>}
      {found.data && (
        <>
          <p className="mb-2" data-testid="siblings">
            {meant === 0
              ? "Alike in everything that siblings share"
              : `${meant} ${meant === 1 ? "thing differs that was" : "things differ that were"} probably meant to be alike`}
            ; {found.data.alike} the same.
          </p>
          <div className="min-h-0 flex-1 overflow-y-auto">
            <table className="w-full table-fixed text-left">
              <thead className="muted">
                <tr>
                  <th className="w-64 py-1 font-medium">what</th>
                  {[found.data.one, found.data.two].map((title, k) => (
                    <th key={found.data.pointers[k] as string} className="py-1 font-medium">
                      <button type="button" className="link-quiet" onClick={() => select(found.data.pointers[k] as string)}>
                        {title}
                      </button>
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {rows.map((u) => (
                  <tr key={u.what} data-meant={u.meant} className={`hair border-t align-top ${u.meant ? "" : "muted"}`}>
                    <td className="py-1 pr-3">
                      {u.meant && <span className="text-accent mr-1 font-semibold">≠</span>}
                      {u.what}
                      {!u.meant && <span className="block text-[11px]">each has its own</span>}
                    </td>
                    <td className="py-1 pr-3 font-mono text-[12px] break-words">{u.one}</td>
                    <td className="py-1 font-mono text-[12px] break-words">{u.two}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        </>
      )}
    </div>
  );
}
