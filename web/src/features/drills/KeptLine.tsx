import type { Kept } from "./useKeeping";

/** Whether what was written is kept, as which version, or why not. */
export function KeptLine({ kept, onAgain }: { kept: Kept; onAgain: () => void }) {
  const words =
    kept.state === "kept"
      ? `Kept as version ${kept.number}`
      : kept.state === "keeping"
        ? "Keeping…"
        : "Not kept yet";
  return (
    <span
      className="min-h-8 py-1 text-sm text-ink-soft"
      role="status"
      data-testid="kept"
      data-state={kept.state}
    >
      {kept.state === "refused" ? (
        <>
          Not kept: {kept.why}{" "}
          {!kept.conflict && (
            <button type="button" className="underline" onClick={onAgain}>
              Try again
            </button>
          )}
        </>
      ) : (
        words
      )}
    </span>
  );
}
