import { useState } from "react";
import { type Role, ROLES, useEndOthers, useMe, usePassword, usePeople, useSignOut } from "../api/people";
import type { Schemas } from "../api/client";
import { Dialog } from "../parts/Dialog";
import { Tokens } from "./Tokens";

/** Who may do what with this design; one's own password; sign out. */
export function People({ design, role, onClose }: { design: string; role: Role; onClose: () => void }) {
  const me = useMe();
  const { roles, accounts, add, put, shut, act } = usePeople(design, me.data?.owner === true || role === "administer");
  const others = useEndOthers();
  const leave = useSignOut();
  const of = new Map(roles.map((r) => [r.name, r.role]));
  const [fresh, setFresh] = useState({ name: "", password: "" });
  const failed = add.error ?? put.error ?? shut.error ?? act.error ?? others.error;
  return (
    <Dialog label="People" onClose={onClose} wide>
      <header className="mb-3 flex items-baseline gap-3">
        <h2 className="text-base font-semibold">People</h2>
        <p className="muted flex-1">
          You are {me.data?.name}; you may {me.data?.owner ? "administer everything" : role}.
        </p>
        <button type="button" className="btn btn-ghost btn-xs" onClick={() => others.mutate()}>
          {others.isSuccess ? "Other sessions ended" : "End my other sessions"}
        </button>
        <button type="button" className="btn btn-outline btn-xs" onClick={() => leave.mutate()}>
          Sign out
        </button>
      </header>
      {accounts.length === 0 && roles.length > 0 && <p className="muted mb-2">{roles.map((r) => `${r.name} may ${r.role ?? "do nothing"}`).join(", ")}</p>}
      <table className="w-full text-left" hidden={accounts.length === 0}>
        <thead className="muted">
          <tr>
            <th className="py-1 font-medium">name</th>
            <th className="py-1 font-medium">with this design</th>
            <th className="py-1 font-medium">enters by</th>
            <td />
          </tr>
        </thead>
        <tbody>
          {accounts.map((p) => (
            <tr key={p.id} className="hair border-t">
              <td className={`py-1 pr-3 ${p.disabled ? "muted line-through" : "font-medium"}`}>{p.name}</td>
              <td className="py-1 pr-3">
                {p.owner ? (
                  <span className="muted">owner: everything</span>
                ) : (
                  <select
                    className="select select-xs w-32"
                    aria-label={`What ${p.name} may do`}
                    value={of.get(p.name) ?? ""}
                    disabled={role !== "administer" || put.isPending}
                    onChange={(e) => put.mutate({ name: p.name, role: (e.target.value || null) as Role | null })}
                  >
                    <option value="">nothing</option>
                    {ROLES.map((r) => (
                      <option key={r}>{r}</option>
                    ))}
                  </select>
                )}
              </td>
              <td className="muted py-1 pr-3">{p.has_password ? "password" : "link only"}</td>
              <td className="py-1 text-right">
                {me.data?.owner && p.name !== me.data.name && (
                  <Deeds person={p} shut={() => shut.mutate({ name: p.name, disabled: !p.disabled })} act={(what) => act.mutate({ name: p.name, what })} />
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {act.data && (
        <p role="status" className="bg-base-200 mt-2 rounded p-2">
          This link lets {act.variables?.name} in once, to set another password: <code className="break-all">{`${location.origin}${act.data}`}</code>
        </p>
      )}
      {failed && (
        <p role="alert" className="text-error mt-2">
          {failed.problem.errors?.[0]?.sentence ?? failed.message}
        </p>
      )}
      {me.data?.owner && (
        <form
          aria-label="New account"
          className="hair mt-4 flex flex-wrap items-end gap-3 border-t pt-3"
          onSubmit={(e) => {
            e.preventDefault();
            add.mutate({ ...fresh, owner: false }, { onSuccess: () => setFresh({ name: "", password: "" }) });
          }}
        >
          <label className="flex flex-col gap-1">
            <span className="muted text-[12px]">New account</span>
            <input
              className="input input-sm w-40"
              placeholder="name"
              required
              maxLength={80}
              value={fresh.name}
              onChange={(e) => setFresh({ ...fresh, name: e.target.value })}
            />
          </label>
          <label className="flex flex-col gap-1">
            <span className="muted text-[12px]">Password, 10 characters or more</span>
            <NewPassword value={fresh.password} onValue={(password) => setFresh({ ...fresh, password })} />
          </label>
          <button type="submit" className="btn btn-primary btn-sm" disabled={add.isPending}>
            Add
          </button>
        </form>
      )}
      <OwnPassword asksOld={me.data?.has_password ?? false} />
      <Tokens design={design} />
    </Dialog>
  );
}

interface DeedsProps {
  person: Schemas["Person"];
  shut: () => void;
  act: (what: "reset" | "owner" | "no owner" | "end" | "remove") => void;
}

/** What an owner can do about somebody; removing is asked once more. */
function Deeds({ person, shut, act }: DeedsProps) {
  const [leaving, setLeaving] = useState(false);
  const deed = (words: string, does: () => void) => (
    <button key={words} type="button" className="link-quiet text-[12px]" onClick={does}>
      {words}
    </button>
  );
  if (leaving)
    return (
      <span className="flex justify-end gap-3">
        {deed("remove the account", () => act("remove"))}
        {deed("keep it", () => setLeaving(false))}
      </span>
    );
  return (
    <span className="flex justify-end gap-3">
      {deed(person.owner ? "no owner" : "make an owner", () => act(person.owner ? "no owner" : "owner"))}
      {deed("sign out", () => act("end"))}
      {deed("reset password", () => act("reset"))}
      {deed(person.disabled ? "let in again" : "shut out", shut)}
      {deed("remove", () => setLeaving(true))}
    </span>
  );
}

function NewPassword({ value, onValue }: { value: string; onValue: (text: string) => void }) {
  return (
    <input
      className="input input-sm w-56"
      type="password"
      autoComplete="new-password"
      minLength={10}
      maxLength={200}
      required
      value={value}
      onChange={(e) => onValue(e.target.value)}
    />
  );
}

function OwnPassword({ asksOld }: { asksOld: boolean }) {
  const [form, setForm] = useState({ old: "", new: "" });
  const change = usePassword();
  return (
    <form
      aria-label="Your password"
      className="hair mt-3 flex flex-wrap items-end gap-2 border-t pt-3"
      onSubmit={(e) => {
        e.preventDefault();
        change.mutate(form, { onSuccess: () => setForm({ old: "", new: "" }) });
      }}
    >
      {asksOld && (
        <label className="flex flex-col gap-1">
          <span className="muted text-[12px]">Your password now</span>
          <input
            className="input input-sm w-40"
            type="password"
            autoComplete="current-password"
            required
            value={form.old}
            onChange={(e) => setForm({ ...form, old: e.target.value })}
          />
        </label>
      )}
      <label className="flex flex-col gap-1">
        <span className="muted text-[12px]">{asksOld ? "Another one" : "Give yourself a password"}</span>
        <NewPassword value={form.new} onValue={(text) => setForm({ ...form, new: text })} />
      </label>
      <button type="submit" className="btn btn-outline btn-sm" disabled={change.isPending}>
        Set
      </button>
      {change.isSuccess && <span className="text-primary">Changed; sessions elsewhere have ended.</span>}
      {change.isError && (
        <span role="alert" className="text-error">
          {change.error.problem.errors?.[0]?.sentence ?? change.error.message}
        </span>
      )}
    </form>
  );
}
