import { useState } from "react";
import { type Role, ROLES, useTokens } from "../api/people";

const day = (at: string) => at.slice(0, 10);

/** The tokens by which one's programs act: made, told once, ended. */
export function Tokens({ design }: { design: string }) {
  const { all, make, end } = useTokens();
  const [form, setForm] = useState<{ name: string; scope: Role; here: boolean; days: number }>({ name: "", scope: "read", here: true, days: 90 });
  const failed = make.error ?? end.error;
  return (
    <section aria-label="Tokens" className="hair mt-3 border-t pt-3">
      <p className="muted mb-1 text-[12px]">
        A program acts for you by a token, sent as <code>Authorization: Bearer</code>; it may what you may, and no more than its scope.
      </p>
      <ul>
        {all.map((t) => (
          <li key={t.id} className="flex items-baseline gap-3 py-0.5" data-token={t.name}>
            <span className="font-medium">{t.name}</span>
            <span>may {t.scope}</span>
            <span className="muted flex-1 text-[12px]">
              {t.design === null ? "every design of yours" : t.design === design ? "this design" : "another design"}, until {day(t.expires_at)},{" "}
              {t.used_at ? `used ${day(t.used_at)}` : "never used"}
            </span>
            <button type="button" className="link-quiet text-[12px]" aria-label={`End the token ${t.name}`} onClick={() => end.mutate(t.id)}>
              end
            </button>
          </li>
        ))}
      </ul>
      {make.data && (
        <p role="status" className="bg-base-200 my-2 rounded p-2">
          This is the token {make.data.token.name}, told this once: <code className="break-all">{make.data.secret}</code>
        </p>
      )}
      {failed && (
        <p role="alert" className="text-error mt-2">
          {failed.problem.errors?.[0]?.sentence ?? failed.message}
        </p>
      )}
      <form
        aria-label="New token"
        className="flex flex-wrap items-end gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          const { here, ...rest } = form;
          make.mutate({ ...rest, design: here ? design : null }, { onSuccess: () => setForm({ ...form, name: "" }) });
        }}
      >
        <label className="flex flex-col gap-1">
          <span className="muted text-[12px]">New token</span>
          <input
            className="input input-sm w-36"
            placeholder="what it is for"
            required
            maxLength={40}
            value={form.name}
            onChange={(e) => setForm({ ...form, name: e.target.value })}
          />
        </label>
        <label className="flex flex-col gap-1">
          <span className="muted text-[12px]">It may</span>
          <select className="select select-sm w-28" value={form.scope} onChange={(e) => setForm({ ...form, scope: e.target.value as Role })}>
            {ROLES.map((r) => (
              <option key={r}>{r}</option>
            ))}
          </select>
        </label>
        <label className="flex flex-col gap-1">
          <span className="muted text-[12px]">with</span>
          <select className="select select-sm w-36" value={String(form.here)} onChange={(e) => setForm({ ...form, here: e.target.value === "true" })}>
            <option value="true">this design</option>
            <option value="false">every design</option>
          </select>
        </label>
        <label className="flex flex-col gap-1">
          <span className="muted text-[12px]">for days</span>
          <input
            className="input input-sm w-20"
            type="number"
            min={1}
            max={366}
            required
            value={form.days}
            onChange={(e) => setForm({ ...form, days: e.target.valueAsNumber || 1 })}
          />
        </label>
        <button type="submit" className="btn btn-outline btn-sm" disabled={make.isPending}>
          Make it
        </button>
      </form>
    </section>
  );
}
