import { Link } from "react-router";
import { Button } from "~/ui/Button";
import { Neck } from "~/ui/card/Neck";
import { isLeftHanded } from "~/ui/card/useHand";
import { cx } from "~/ui/cx";
import { useSheet } from "./sheetContext";

/** Why it probably was so, and what to try: at most three, each a way to its notes. */
export function Causes() {
  const { measured, causeShown: shown, showCause } = useSheet();
  const { causes, summary } = measured.analysis;
  const faults = summary.not_clean + summary.missed;
  if (causes.length === 0)
    return faults > 0 ? (
      <p className="mb-3 text-sm text-ink-soft" data-testid="no-causes">
        What is not clean has no pattern that would name a cause; it stands note by note below.
      </p>
    ) : null;
  return (
    <section aria-label="Likely causes" className="mb-4" data-testid="causes">
      <h2 className="sr-only">Likely causes</h2>
      <ol className={cx("grid gap-x-8 gap-y-3", causes.length > 1 && "md:grid-cols-2 xl:grid-cols-3")}>
        {causes.map((cause, index) => (
          <li
            key={cause.code}
            className={cx(
              "border-t-2 border-ink pt-2",
              causes.length === 1 && "grid gap-x-8 md:grid-cols-[1.2fr_1fr_1.4fr]",
            )}
            data-cause={cause.code}
          >
            <div>
              <div className="flex items-baseline gap-3">
                <h3 className="font-semibold">{cause.says}</h3>
                <Button
                  className="min-h-7 px-2 print:hidden"
                  aria-keyshortcuts={String(index + 1)}
                  title={`Key: ${index + 1}`}
                  aria-pressed={shown === cause.code}
                  onClick={() => showCause(cause)}
                >
                  {cause.places?.length === 1 ? "1 note" : `${cause.places?.length ?? 0} notes`}
                </Button>
              </div>
              <p className="text-sm">{cause.evidence}</p>
            </div>
            <div className="text-sm">
              <p className="text-ink-soft">Probably: {cause.because}</p>
              {cause.damper && (
                <p className="mt-1" data-testid="damper">
                  {cause.damper}
                </p>
              )}
              {cause.posture && (
                <details className="print:hidden">
                  <summary className="cursor-pointer">Show the hands there</summary>
                  <Neck
                    posture={cause.posture}
                    strings={measured.drill.content.tuning.length}
                    leftHanded={isLeftHanded()}
                  />
                </details>
              )}
            </div>
            <div className="text-sm">
              {(cause.tries ?? []).map((text) => (
                <p key={text}>
                  <span className="font-semibold">Try</span> {text}
                </p>
              ))}
              <Link
                className="underline print:hidden"
                to={`/drills?${new URLSearchParams({ for: cause.code, says: cause.says })}`}
              >
                Drills for this
              </Link>
            </div>
          </li>
        ))}
      </ol>
    </section>
  );
}
