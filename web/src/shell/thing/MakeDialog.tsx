import { useState } from "react";
import { useForms, useFresh, useMakePreview, workedOut } from "../../api/making";
import { useDraft } from "../../api/queries";
import { Dialog } from "../../parts/Dialog";
import type { Plain } from "../../parts/fields/model";
import { ThingFields } from "../../parts/fields/ThingFields";
import { PreviewBox } from "../../parts/PreviewBox";
import type { StageProps } from "../parts";

interface Props extends Pick<StageProps, "design" | "change" | "select"> {
  /** What is to be made, as the server calls the kind. */
  kind: string;
  /** The pointer of its owner; "" = the design. */
  at: string;
  /** The kind of the device it becomes part of. */
  owner: string;
  /** What is known of it already; the rest is proposed. */
  known?: Record<string, Plain>;
  onClose: () => void;
  /** Heard with the name of what was made; left out = it is put on the bench side. */
  onMade?: (name: string) => void;
}

/** A new thing: what it says to begin with is proposed by the site's pattern, changed in place, previewed, made. */
export function MakeDialog({ design, kind, at, owner, known: said = {}, change, select, onClose, onMade }: Props) {
  const forms = useForms();
  const fresh = useFresh(design, { kind, at });
  const draft = useDraft(design);
  const [value, setValue] = useState<Record<string, Plain> | null>(null);
  const proposed = fresh.data && !fresh.isPlaceholderData ? { ...(fresh.data.value as Record<string, Plain>), ...said } : null;
  const now = value ?? proposed;
  const known = forms.data?.makes.find((m) => m.kind === kind);
  const inside = kind === "translation" && owner !== "firewall" ? "InterfaceNat" : fresh.data?.model;
  const fields = (inside && forms.data?.models[inside]) || [];
  const lacking = now
    ? fields.filter(
        (f) =>
          f.required &&
          (now[f.key] === undefined || now[f.key] === "" || (Array.isArray(now[f.key]) && f.editor === "refs" && (now[f.key] as Plain[]).length === 0)),
      )
    : [];
  const ready = now !== null && lacking.length === 0;
  const preview = useMakePreview(design, ready ? { action: "make", body: { kind, at, value: now } } : null);
  const made = ready ? workedOut(preview) : null;
  const put = (key: string, next: Plain | undefined) => {
    const rest = Object.fromEntries(Object.entries(now ?? {}).filter(([k]) => k !== key));
    setValue(next === undefined ? rest : { ...rest, [key]: next });
  };
  return (
    <Dialog label={`New ${known?.title ?? "thing"}`} onClose={onClose} wide>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (!made) return;
          const patch = made.patch;
          change.mutate({ kind: "patch", patch }, { onSuccess: () => (onMade ? onMade(String(now?.["name"] ?? "")) : select(placeOf(patch))) });
          onClose();
        }}
      >
        <h2 className="text-lg font-semibold">New {known?.title ?? "thing"}</h2>
        {fresh.isError && (
          <p role="alert" className="text-error">
            {fresh.error.message}
          </p>
        )}
        {now && <ThingFields design={design} at={at} fields={fields} value={now} kind={owner} version={draft.data?.version ?? 0} onPut={put} />}
        <PreviewBox
          preview={ready ? preview : null}
          hint={lacking.length > 0 ? `Still to say: ${lacking.map((f) => f.title.toLowerCase()).join(", ")}.` : "Being proposed…"}
        />
        <p className="flex justify-end gap-2">
          <button type="button" className="btn btn-ghost btn-sm" onClick={onClose}>
            Leave it
          </button>
          <button type="submit" className="btn btn-primary btn-sm" disabled={!made}>
            Make it
          </button>
        </p>
      </form>
    </Dialog>
  );
}

/** The pointer of what an edit added last, where it says so by its path. */
function placeOf(patch: Record<string, unknown>[]): string | null {
  const last = patch.findLast((op) => op["op"] === "add");
  if (!last) return null;
  const path = String(last["path"]);
  return /\/\d+$/.test(path) ? path : Array.isArray(last["value"]) ? `${path}/0` : path;
}
