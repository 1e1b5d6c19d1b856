import { memo } from "react";
import type { TakeMeasured } from "~/api/client";
import { type Axis, type BeatLine, xOf } from "~/lib/axis.math";
import type { SheetNote } from "~/ui/take/notes.math";
import { extraWords, rhythmFaults } from "~/ui/take/rhythm.math";
import { BeatRules } from "./BeatRules";
import { StripScale } from "./StripScale";

export const TIME_HEIGHT = 76;
const MOST_MS = 60;
const LABELLED_MS = [40, 0, -40];
const MIDDLE = TIME_HEIGHT / 2;
/** Late stands over the line, early hangs under it; beyond the edge a mark stays at the edge. */
export const yOfMs = (ms: number) =>
  MIDDLE - (Math.max(-MOST_MS, Math.min(MOST_MS, ms)) / MOST_MS) * (MIDDLE - 8);

const y = yOfMs;

export function TimeScale() {
  return <StripScale values={LABELLED_MS} y={y} />;
}

export interface TimeStripProps {
  axis: Axis;
  lines: BeatLine[];
  notes: readonly SheetNote[];
  extras: TakeMeasured["analysis"]["extras"];
}

/** Each onset against the grid, ms: a flag from the line to where it was played. */
export const TimeStrip = memo(function TimeStrip({ axis, lines, notes, extras }: TimeStripProps) {
  return (
    <svg
      width={axis.widthPx}
      height={TIME_HEIGHT}
      className="block border-t border-rule"
      aria-hidden="true"
      data-testid="time-strip"
    >
      <BeatRules lines={lines} height={TIME_HEIGHT} />
      <line x1={0} x2={axis.widthPx} y1={MIDDLE} y2={MIDDLE} stroke="var(--rule-strong)" strokeWidth={0.8} />
      {notes.map((note) => (
        <Flag key={note.key} axis={axis} note={note} />
      ))}
      {extras.map((extra) => {
        const x = xOf(axis, extra.onset_s);
        return (
          <g key={extra.onset_s} stroke="var(--over)" strokeWidth={1.6}>
            <path d={`M${x - 4} ${MIDDLE - 4}l8 8m0 -8l-8 8`} fill="none" />
            <title>{extraWords(extra.kind)}</title>
          </g>
        );
      })}
    </svg>
  );
});

function Flag({ axis, note: { note } }: { axis: Axis; note: SheetNote }) {
  const timing = note.timing;
  if (!timing || timing.error_ms === null || timing.grid_s === null) return null;
  const x = xOf(axis, timing.grid_s);
  const limit = timing.limit_ms ?? 0;
  const outside = timing.verdict === "outside";
  const colour = !outside ? "var(--ink)" : timing.error_ms < 0 ? "var(--under)" : "var(--over)";
  const tip = y(timing.error_ms);
  const label = outside ? (rhythmFaults(note)[0]?.text ?? "").replace(/ (ms|early|late)/g, "") : "";
  return (
    <g>
      <rect x={x - 3} width={11} y={y(limit)} height={y(-limit) - y(limit)} fill="var(--corridor)" />
      {timing.verdict === "unclear" && (
        <rect
          x={x - 3}
          width={11}
          y={y(limit)}
          height={y(-limit) - y(limit)}
          fill="url(#cannot-tell)"
          opacity={0.55}
        />
      )}
      <line x1={x} x2={x} y1={MIDDLE} y2={tip} stroke={colour} strokeWidth={outside ? 2.4 : 1.4} />
      <line x1={x} x2={x + 7} y1={tip} y2={tip} stroke={colour} strokeWidth={outside ? 2.6 : 1.8} />
      {outside && axis.pxPerSecond > 30 && (
        <text x={x + 10} y={tip + 4} fontSize={11} fontWeight={600} className="figures" fill={colour}>
          {timing.error_ms < 0 ? "−" : "+"}
          {label}
        </text>
      )}
    </g>
  );
}
