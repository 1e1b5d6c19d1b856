import { memo } from "react";
import { type Axis, type BeatLine, xOf } from "~/lib/axis.math";
import type { SheetNote } from "~/ui/take/notes.math";
import { BeatRules } from "./BeatRules";
import { StripScale } from "./StripScale";

export const TOUCH_HEIGHT = 88;
const FLOOR = TOUCH_HEIGHT - 14;
const ZERO = 32;
const DB_PX = 2.9;
const LABELLED_DB = [6, 0, -6, -12];
export const yOfDb = (db: number) => Math.max(6, Math.min(FLOOR - 6, ZERO - db * DB_PX));
const y = yOfDb;

export function TouchScale() {
  return <StripScale values={LABELLED_DB} y={y} />;
}

export interface TouchStripProps {
  axis: Axis;
  lines: BeatLine[];
  notes: readonly SheetNote[];
}

/** How loud each note is, dB from the median: slurs hollow, accents with a roof; its length as a line underneath. */
export const TouchStrip = memo(function TouchStrip({ axis, lines, notes }: TouchStripProps) {
  return (
    <svg
      width={axis.widthPx}
      height={TOUCH_HEIGHT}
      className="block border-t border-rule"
      aria-hidden="true"
      data-testid="touch-strip"
    >
      <BeatRules lines={lines} height={TOUCH_HEIGHT} />
      <line x1={0} x2={axis.widthPx} y1={ZERO} y2={ZERO} stroke="var(--rule-strong)" strokeWidth={0.8} />
      {notes.map((note) => (
        <Touch key={note.key} axis={axis} note={note} />
      ))}
    </svg>
  );
});

function Touch({ axis, note: { note, event } }: { axis: Axis; note: SheetNote }) {
  const { level, length, onset_s: onset, end_s: end } = note;
  if (onset === null || end === null) return null;
  const x = xOf(axis, onset);
  return (
    <g>
      {level && level.level_db !== null && (
        <Loudness level={level} x={x + 5} accent={event?.accent ?? false} />
      )}
      {length && length.length_ratio !== null && (
        <Sounds length={length} from={x} to={xOf(axis, end)} pxPerMs={axis.pxPerSecond / 1000} />
      )}
    </g>
  );
}

type Level = NonNullable<SheetNote["note"]["level"]>;
type Length = NonNullable<SheetNote["note"]["length"]>;

function Loudness({ level, x, accent }: { level: Level; x: number; accent: boolean }) {
  const outside = level.verdict === "outside";
  const soft = (level.deviation_db ?? 0) < 0 || level.dies || level.way === "accented";
  const colour = !outside ? "var(--ink)" : soft ? "var(--under)" : "var(--over)";
  const top = y(level.level_db ?? 0);
  const hollow = level.way === "slurred" || level.way === "tapped";
  return (
    <g>
      <line
        x1={x}
        x2={x}
        y1={FLOOR}
        y2={top}
        stroke={colour}
        strokeWidth={outside ? 2.2 : 1}
        opacity={outside ? 1 : 0.55}
      />
      <circle
        cx={x}
        cy={top}
        r={3.4}
        fill={hollow ? "var(--paper)" : colour}
        stroke={colour}
        strokeWidth={1.6}
        strokeDasharray={level.verdict === "unclear" ? "2 1.6" : undefined}
      />
      {accent && <path d={`M${x - 5} ${top - 6}l5 -4l5 4`} fill="none" stroke={colour} strokeWidth={1.6} />}
      {outside && !level.dies && (
        <text x={x + 6} y={top + 4} fontSize={11} fontWeight={600} className="figures" fill={colour}>
          {(level.deviation_db ?? 0) < 0 ? "−" : "+"}
          {Math.abs(level.deviation_db ?? 0).toFixed(0)}
        </text>
      )}
    </g>
  );
}

function Sounds({
  length,
  from,
  to,
  pxPerMs,
}: {
  length: Length;
  from: number;
  to: number;
  pxPerMs: number;
}) {
  const outside = length.verdict === "outside";
  const short = (length.length_ratio ?? 1) < 1;
  const colour = !outside ? "var(--ink)" : short ? "var(--under)" : "var(--over)";
  const over = (length.overlap_ms ?? 0) * pxPerMs;
  return (
    <g>
      <line
        x1={from + 1}
        x2={Math.max(from + 2, to - 1)}
        y1={FLOOR + 5}
        y2={FLOOR + 5}
        stroke={colour}
        strokeWidth={outside ? 3 : 1.6}
      />
      {over > 1 && (
        <line
          x1={to}
          x2={to + over}
          y1={FLOOR + 9}
          y2={FLOOR + 9}
          stroke={outside ? "var(--ring)" : "var(--ink-soft)"}
          strokeWidth={outside ? 3 : 1.4}
        />
      )}
    </g>
  );
}
