import type { ReactNode } from "react";
import { ErrorBoundary, type FallbackProps } from "react-error-boundary";

/** A stage that breaks says so in its own place; the rail, the bench side and the line below go on. */
export function Guarded({ stage, children }: { stage: string; children: ReactNode }) {
  return (
    <ErrorBoundary FallbackComponent={Broken} resetKeys={[stage]}>
      {children}
    </ErrorBoundary>
  );
}

function Broken({ error, resetErrorBoundary }: FallbackProps) {
  return (
    <div role="alert" className="flex h-full flex-col items-center justify-center gap-2 p-8 text-center">
      <p className="text-base font-medium">This stage could not be drawn</p>
      <p className="muted max-w-md">Nothing of the design was touched. The other stages work; this one can be tried again.</p>
      <p className="muted max-w-md font-mono text-[12px]">{error instanceof Error ? error.message : String(error)}</p>
      <button type="button" className="btn btn-primary btn-sm" onClick={resetErrorBoundary}>
        Try again
      </button>
    </div>
  );
}
