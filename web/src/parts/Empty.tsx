import { useIsFetching } from "@tanstack/react-query";
import type { ReactNode } from "react";

/** What stands where nothing is yet: what to do first, as a button where one can do it here. */
export function Empty({ title, hint, children }: { title: string; hint: string; children?: ReactNode }) {
  return (
    <div className="flex h-full flex-col items-center justify-center gap-1 p-8 text-center" role="status">
      <p className="text-base font-medium">{title}</p>
      <p className="muted max-w-md">{hint}</p>
      {children && <div className="mt-3 flex flex-wrap justify-center gap-2">{children}</div>}
    </div>
  );
}

/** What stands where the answer is not there yet; nothing once nobody works on it, as after a stop. */
export function Working() {
  const asked = useIsFetching() > 0;
  if (!asked) return null;
  return (
    <div className="muted flex h-full items-center justify-center gap-2" role="status" data-working>
      <span className="loading loading-dots loading-sm" aria-hidden="true" /> working it out…
    </div>
  );
}
