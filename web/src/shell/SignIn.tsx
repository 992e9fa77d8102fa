import { LogIn } from "lucide-react";
import { useState } from "react";
import { useSignIn } from "../api/people";

/** The door: a name and a password; on one's own machine a link from the terminal does without. */
export function SignIn() {
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const enter = useSignIn();
  const used = new URLSearchParams(location.search).get("link") === "used";
  return (
    <div className="bg-base-200 text-base-content grid h-full grid-cols-[minmax(0,1fr)_minmax(22rem,30rem)]">
      <section className="relative overflow-hidden p-12">
        <Slope />
        <p className="flex items-center gap-2 text-[15px] font-semibold">
          <img src="/mark.svg" alt="" className="size-7" /> Anabasis
        </p>
        <h1 className="mt-24 max-w-md text-3xl leading-tight font-semibold tracking-tight">From the cable up to the proof.</h1>
        <p className="muted mt-3 max-w-sm text-[14px]">
          VLANs, zones, routes and rules of one site: which segments may reach which, where it stops first, and what an edit opens and closes.
        </p>
      </section>
      <main className="bg-base-100 hair flex flex-col justify-center border-l px-10">
        <form
          aria-label="Sign in"
          className="flex flex-col gap-3"
          onSubmit={(e) => {
            e.preventDefault();
            enter.mutate({ name, password });
          }}
        >
          <h2 className="text-lg font-semibold">Sign in</h2>
          {used && <p className="text-accent">That link was used already, or is too old. Each link lets one browser in, once.</p>}
          <label className="flex flex-col gap-1">
            <span className="muted">Name</span>
            <input className="input w-full" autoComplete="username" autoFocus required maxLength={80} value={name} onChange={(e) => setName(e.target.value)} />
          </label>
          <label className="flex flex-col gap-1">
            <span className="muted">Password</span>
            <input
              className="input w-full"
              type="password"
              autoComplete="current-password"
              required
              maxLength={200}
              value={password}
              onChange={(e) => setPassword(e.target.value)}
            />
          </label>
          {enter.isError && (
            <p role="alert" className="text-error">
              {enter.error.message}
            </p>
          )}
          <button type="submit" className="btn btn-primary mt-1 self-start" disabled={enter.isPending}>
            <LogIn size={16} aria-hidden="true" /> Sign in
          </button>
        </form>
        <p className="muted hair mt-8 border-t pt-3 text-[12px]">
          On the machine it runs on: <code className="font-mono">make start</code> prints a link that lets you in without a password.
        </p>
      </main>
    </div>
  );
}

/** The climb, as on the rail: steps from the foot of the page to its top. */
function Slope() {
  const steps = Array.from({ length: 9 }, (_, k) => `H${40 + (k + 1) * 66}V${560 - (k + 1) * 58}`);
  return (
    <svg className="absolute right-0 bottom-0 h-3/5 w-full" viewBox="0 0 640 560" preserveAspectRatio="xMaxYMax meet" fill="none" aria-hidden="true">
      <path d={`M0 560H40V560${steps.join("")}`} className="stroke-base-300" strokeWidth="2" />
      <path d={`M0 560H40V560${steps.slice(0, 4).join("")}`} className="stroke-primary" strokeWidth="3" />
      <rect x="297" y="314" width="14" height="28" rx="4" className="fill-accent" />
    </svg>
  );
}
