import type { InputSeen } from "./input.math";

const LOWEST_DBFS = -72;
const share = (dbfs: number) => Math.min(1, Math.max(0, 1 - dbfs / LOWEST_DBFS));

/** The level now and its peak on a line from silence to full scale; what is good lies between the two marks. */
export function Meter({ seen }: { seen: InputSeen | null }) {
  const rms = share(seen?.rmsDbfs ?? LOWEST_DBFS);
  const peak = share(seen?.peakDbfs ?? LOWEST_DBFS);
  return (
    // biome-ignore lint/a11y/useSemanticElements: a <meter> cannot show two values
    <div
      role="meter"
      aria-label="Input level"
      aria-valuemin={LOWEST_DBFS}
      aria-valuemax={0}
      aria-valuenow={Math.round(Math.max(LOWEST_DBFS, seen?.peakDbfs ?? LOWEST_DBFS))}
      className="relative h-5 w-full border-y border-rule-strong"
    >
      <div
        className="absolute inset-y-0 bg-corridor"
        style={{ left: `${100 * share(-24)}%`, right: `${100 - 100 * share(-3)}%` }}
      />
      <div className="absolute top-2 bottom-2 left-0 bg-ink" style={{ width: `${100 * rms}%` }} />
      <div className="absolute inset-y-0 w-0.5 bg-ink" style={{ left: `calc(${100 * peak}% - 1px)` }} />
    </div>
  );
}
