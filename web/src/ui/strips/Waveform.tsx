import { useMemo } from "react";
import type { Curves } from "~/api/client";
import type { Axis, BeatLine } from "~/lib/axis.math";
import { outlinePath, outlinePeak } from "~/lib/tune.math";
import { Marks } from "./Marks";
import { lineFrom } from "./marks.math";

export const WAVE_HEIGHT = 44;

export function Waveform({ axis, lines, curves }: { axis: Axis; lines: BeatLine[]; curves: Curves }) {
  const peak = useMemo(() => outlinePeak(curves), [curves]);
  const path = useMemo(() => outlinePath(curves, axis, WAVE_HEIGHT, peak), [curves, axis, peak]);
  return (
    <svg
      width={axis.widthPx}
      height={WAVE_HEIGHT}
      className="block border-t border-rule"
      aria-hidden="true"
      data-testid="waveform"
    >
      <Marks
        marks={lines.map((line) => ({
          d: lineFrom(line.x, WAVE_HEIGHT - (line.kind === "beat" ? 5 : 10), line.x, WAVE_HEIGHT),
          stroke: "var(--ink-soft)",
          width: line.kind === "repeat" ? 2 : 1,
        }))}
      />
      <path d={path} fill="var(--ink-soft)" opacity={0.75} />
    </svg>
  );
}
