import type { ReactNode } from "react";
import { Problem } from "~/api/client";
import { Button } from "./Button";

/** Something is on its way. */
export function Loading({ what }: { what: string }) {
  return (
    <p role="status" className="py-8 text-ink-soft">
      Loading {what} …
    </p>
  );
}

/** Nothing here yet, and what to do about it. */
export function Empty({ title, children }: { title: string; children: ReactNode }) {
  return (
    <div className="border-y border-rule py-10">
      <h2 className="text-lg font-semibold">{title}</h2>
      <div className="mt-1 max-w-prose text-ink-soft">{children}</div>
    </div>
  );
}

/** It did not work; the sentence says what to do. */
export function Failed({ error, onRetry }: { error: unknown; onRetry?: () => void }) {
  const text = error instanceof Problem ? error.message : "Something went wrong in the page. Reload it.";
  return (
    <div role="alert" className="my-6 border-l-4 border-ink bg-sheet px-4 py-3">
      <p>{text}</p>
      {onRetry && (
        <Button className="mt-3" onClick={onRetry}>
          Try again
        </Button>
      )}
    </div>
  );
}
