import type { ReactNode } from "react";
import { LaneScale, laneHeight } from "~/ui/strips/LaneScale";
import { useTune } from "~/ui/strips/tuneHeight";
import { WAVE_HEIGHT } from "~/ui/strips/Waveform";
import { STRING_GAP, type TabLayout, TOP } from "~/ui/tab/tab.math";
import type { LaneName } from "~/ui/take/sheet.math";

export const STRIP_NAMES: Record<LaneName, string> = {
  tune: "Tune",
  time: "Time",
  touch: "Touch",
  quiet: "Quiet",
};

/** What each strip is, with its scale, left of them. */
export function StripNames({ tab, lanes }: { tab: TabLayout; lanes: readonly LaneName[] }) {
  const tune = useTune();
  return (
    <div className="w-20 shrink-0 text-xs text-ink-soft" aria-hidden="true">
      <div className="relative" style={{ height: tab.heightPx }}>
        <StripName>Tab</StripName>
        {tab.strings.map((string, i) => (
          <span key={string.y} className="figures absolute right-2" style={{ top: TOP + i * STRING_GAP - 8 }}>
            {i + 1} {string.name}
          </span>
        ))}
      </div>
      {lanes.map((lane) => (
        <div
          key={lane}
          className="relative border-t border-rule"
          style={{ height: laneHeight(lane, tab.strings.length, tune) }}
        >
          <StripName>{STRIP_NAMES[lane]}</StripName>
          <LaneScale name={lane} strings={tab.strings.map((s) => s.name)} />
        </div>
      ))}
      <div className="relative border-t border-rule" style={{ height: WAVE_HEIGHT }}>
        <StripName>Sound</StripName>
      </div>
    </div>
  );
}

function StripName({ children }: { children: ReactNode }) {
  return <span className="absolute top-1 left-0 font-semibold text-ink">{children}</span>;
}
