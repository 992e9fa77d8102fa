import type { Schemas } from "../../api/client";
import type { StageProps } from "../../shell/parts";

type Props = StageProps & { grid: Schemas["AnswersGrid"] };

/** Services down, interfaces across: what the box itself tells whom. What strangers can ask of its management is marked. */
export function AnswersGrid({ grid, select, change }: Props) {
  const cell = (service: string, name: string) => grid.cells.find((c) => c.service === service && c.interface === name);
  const give = (column: Schemas["AnswerColumn"], name: string) => {
    const path = `${column.pointer}/answers`;
    change.mutate({ kind: "patch", patch: name === "" ? [{ op: "remove", path }] : [{ op: "add", path, value: name }] });
  };
  return (
    <section aria-label={`Answers of ${grid.device}`} className="overflow-x-auto">
      {grid.open ? (
        <h2 className="pt-4 pb-1 font-medium">{grid.device}</h2>
      ) : (
        <p className="muted py-2">
          To the box, not through it: an address of the box answers what its interface&rsquo;s list names, to the sources the list allows. Everything else gets
          no answer.
        </p>
      )}
      <table className="border-separate border-spacing-0">
        <thead>
          <tr>
            <th className="eyebrow pr-4 text-left align-bottom">service</th>
            {grid.columns.map((c) => (
              <th key={c.interface} scope="col" className="hair min-w-36 border-b border-l px-2 pb-1 text-left align-bottom font-normal">
                <button type="button" className="link-quiet font-mono font-medium" onClick={() => select(c.pointer)}>
                  {c.interface}
                </button>
                {!grid.open && <p className="muted text-[11px]">{c.zone ?? "no zone"}</p>}
                <select
                  className="select select-xs mt-1 h-6 w-full"
                  aria-label={`What ${c.interface} answers`}
                  value={c.answers ?? ""}
                  onChange={(e) => give(c, e.target.value)}
                >
                  <option value="">{grid.open ? "everything" : "nothing"}</option>
                  {grid.lists.map((name) => (
                    <option key={name}>{name}</option>
                  ))}
                </select>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {grid.services.map((service) => (
            <tr key={service}>
              <th scope="row" className="hair border-b py-1.5 pr-4 text-left font-mono text-[12px] font-normal">
                {service}
              </th>
              {grid.columns.map((c) => {
                const found = cell(service, c.interface);
                return (
                  <td
                    key={c.interface}
                    className={`hair border-b border-l px-2 py-1.5 align-top ${found?.risky ? "bg-error/15" : ""}`}
                    data-answer={`${service} ${c.interface}`}
                    data-risky={found?.risky ?? false}
                  >
                    {found && (
                      <button
                        type="button"
                        className="cursor-pointer text-left"
                        onClick={() => select(found.pointer)}
                        title={`${service} on ${c.interface}, answered to ${found.sources.join(", ")}`}
                      >
                        {found.risky && <p className="text-error text-[11px] font-semibold">strangers can ask</p>}
                        <p className="font-mono text-[11.500px]">{found.sources.join(", ")}</p>
                      </button>
                    )}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
      {grid.services.length === 0 && <p>The box answers nothing.</p>}
    </section>
  );
}
