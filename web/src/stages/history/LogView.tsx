import { useLog } from "../../api/history";
import { Empty, Working } from "../../parts/Empty";
import { when } from "./model";

/** Who did what, the newest first. It is only ever added to. */
export function LogView({ design }: { design: string }) {
  const log = useLog(design);
  if (log.isError) return <Empty title="The log is not yours to read" hint={log.error.message} />;
  if (!log.data) return <Working />;
  if (log.data.length === 0)
    return (
      <Empty
        title="Nothing was done yet"
        hint="Publishing, restoring, what-ifs, roles and exports are written down here; single edits stand in the draft itself."
      />
    );
  return (
    <div className="min-h-0 flex-1 overflow-y-auto px-4 pb-4">
      <table className="w-full text-left">
        <tbody>
          {log.data.map((deed) => (
            <tr key={deed.id} className="hair border-t align-top">
              <td className="muted w-40 py-1">{when(deed.at)}</td>
              <td className="w-32 py-1 font-medium">{deed.who}</td>
              <td className="w-44 py-1">{deed.what}</td>
              <td className="py-1">{deed.detail}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
