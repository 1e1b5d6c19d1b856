import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { useKept } from "~/lib/useKept";
import { Button } from "~/ui/Button";
import { Neck } from "~/ui/card/Neck";
import { isLeftHanded } from "~/ui/card/useHand";
import { cx } from "~/ui/cx";
import { useSheet } from "./sheetContext";

/** On paper everything is said. */
const SHUT = "hidden print:block";
const READ = "fortimetra.causesRead";
const MOST_KEPT = 300;

/**
 * Why it probably was so, and what to try: at most three, each a way to its notes. Where there are several, or they were
 * read before, they are folded to what was found.
 */
export function Causes() {
  const { measured, causeShown: shown, showCause } = useSheet();
  const id = measured.take.id;
  const [read, keepRead] = useKept<string[]>(READ, []);
  // Several would push the strips out of sight.
  const [folded, fold] = useState(read.includes(id) || measured.analysis.causes.length > 1);
  const seen = useRef({ read, keepRead });
  seen.current = { read, keepRead };
  useEffect(
    () => () => {
      const { read: known, keepRead: keep } = seen.current;
      if (!known.includes(id)) keep([...known, id].slice(-MOST_KEPT));
    },
    [id],
  );
  const { causes, summary } = measured.analysis;
  const faults = summary.not_clean + summary.missed;
  if (causes.length === 0)
    return faults > 0 ? (
      <p className="mb-3 text-sm text-ink-soft" data-testid="no-causes">
        What is not clean has no pattern that would name a cause; it stands note by note below.
      </p>
    ) : null;
  return (
    <section aria-label="Likely causes" className="relative mb-3" data-testid="causes">
      <h2 className="sr-only">Likely causes</h2>
      <button
        type="button"
        className="mb-1 block bg-paper text-sm text-ink-soft underline sm:absolute sm:top-2 sm:right-0 sm:z-10 sm:pl-2 print:hidden"
        aria-expanded={!folded}
        onClick={() => fold(!folded)}
      >
        {folded ? "Show why" : "Fold"}
      </button>
      <ol
        className={cx(
          "grid gap-x-8",
          folded ? "gap-y-1" : "gap-y-3",
          causes.length > 1 && "md:grid-cols-2",
          causes.length > 2 && "xl:grid-cols-3",
        )}
      >
        {causes.map((cause, index) => (
          <li
            key={cause.code}
            className={cx(
              "border-t-2 border-ink pt-1.5",
              causes.length === 1 && "grid gap-x-8 md:grid-cols-[1.2fr_1fr_1.4fr]",
            )}
            data-cause={cause.code}
          >
            <div>
              <div className="flex items-baseline gap-3">
                <h3 className={cx("font-semibold", folded && "text-sm")}>{cause.says}</h3>
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
              <p className={cx("text-sm", folded && "text-ink-soft")}>{cause.evidence}</p>
            </div>
            <div className={cx("text-sm", folded && SHUT)}>
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
            <div
              className={cx(
                "text-sm",
                folded && SHUT,
                // Its first line leaves room for the button over it.
                causes.length === 1 &&
                  "md:before:float-right md:before:h-5 md:before:w-12 md:before:content-[''] print:before:hidden",
              )}
            >
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
