import { useEffect, useRef } from "react";
import { Button } from "~/ui/Button";
import { Failed } from "~/ui/states";
import { Ticks } from "~/ui/Ticks";
import { gainWords } from "~/ui/take/compare.math";
import { DifferenceTable } from "~/ui/take/DifferenceTable";
import type { Trying } from "./useTrial";

const COUNTS = [
  ["clean", "clean"],
  ["not_clean", "not clean"],
  ["unclear", "cannot tell"],
  ["missed", "missed"],
  ["extra", "extra"],
  ["excluded", "excluded"],
] as const;

/** What a change would do, beside what counts now; nothing is changed until it is kept. */
export function TrialView({ trying }: { trying: Trying }) {
  const { trial } = trying;
  const section = useRef<HTMLElement>(null);
  const id = trial?.id;
  // It stands over the strips; what asked for it may stand far below.
  useEffect(() => {
    if (id) section.current?.focus();
  }, [id]);
  if (trying.error && !trial) return <Failed error={trying.error} />;
  if (!trial) return null;
  return (
    <section
      ref={section}
      tabIndex={-1}
      aria-label="Measured again"
      className="my-4 scroll-mt-4 border-2 border-ink bg-sheet p-4"
      data-testid="trial"
    >
      {trial.state === "waiting" && (
        <div role="status">
          <p className="font-semibold">Measuring once more</p>
          <progress className="mt-1 h-1.5 w-48 accent-ink" aria-label="Measuring once more" />
          <p className="text-sm text-ink-soft">What counts stays as it is.</p>
        </div>
      )}
      {trial.state === "refused" && (
        <p role="alert">
          <strong>It cannot be measured so.</strong> {trial.problem}
        </p>
      )}
      {trial.state === "measured" && trial.before && trial.after && trial.comparison && (
        <>
          <h2 className="font-semibold">
            {gainWords(trial.comparison, true)}{" "}
            {trial.core_versions && trial.core_versions[0] !== trial.core_versions[1] && (
              <span className="font-normal text-ink-soft">
                Measuring version {trial.core_versions[0]} before, {trial.core_versions[1]} now.
              </span>
            )}
          </h2>
          <div className="mt-2 flex flex-wrap gap-x-10 gap-y-4">
            <table className="border-collapse self-start text-sm" data-testid="trial-counts">
              <thead>
                <tr>
                  <td />
                  {["Counts now", "Would count"].map((name) => (
                    <th
                      key={name}
                      scope="col"
                      className="border-b border-ink py-1 pl-5 text-right font-normal text-ink-soft"
                    >
                      {name}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {COUNTS.filter(([name]) => trial.before?.[name] || trial.after?.[name]).map(
                  ([name, words]) => (
                    <tr key={name}>
                      <th scope="row" className="border-b border-rule py-1 text-left font-normal">
                        {words}
                      </th>
                      {[trial.before, trial.after].map((summary, i) => (
                        <td
                          // biome-ignore lint/suspicious/noArrayIndexKey: now, then
                          key={i}
                          className="figures border-b border-rule py-1 pl-5 text-right"
                          data-count={`${name}/${i}`}
                        >
                          {summary?.[name] ?? 0}
                        </td>
                      ))}
                    </tr>
                  ),
                )}
              </tbody>
            </table>
            {trial.ticks && (
              <div className="grid content-start gap-1 text-xs text-ink-soft">
                <span>now</span>
                <Ticks ticks={trial.ticks[0]} />
                <span>then</span>
                <Ticks ticks={trial.ticks[1]} />
              </div>
            )}
            <DifferenceTable
              // How many are clean stands in the counts; of one recording it has no uncertainty of its own.
              rows={trial.comparison.overall.filter((d) => d.code !== "clean_rate" && !!d.difference)}
              before="Now"
              after="Then"
            />
          </div>
          {trial.out_of_date && (
            <p role="alert" className="mt-3">
              This take was measured again meanwhile. Look at it anew, then try once more.
            </p>
          )}
        </>
      )}
      {trying.error && <Failed error={trying.error} />}
      <div className="mt-4 flex gap-3">
        {trial.state === "measured" && (
          <Button
            kind="strong"
            aria-keyshortcuts="Y"
            title="Key: Y"
            disabled={trying.pending || trial.out_of_date}
            onClick={trying.keep}
          >
            Keep this
          </Button>
        )}
        <Button aria-keyshortcuts="Escape" title="Key: Esc" disabled={trying.pending} onClick={trying.drop}>
          {trial.state === "refused" ? "Close" : "Leave it as it was"}
        </Button>
      </div>
    </section>
  );
}
