import { memo } from "react";
import { type Axis, type BeatLine, xOf } from "~/lib/axis.math";
import type { SheetNote } from "~/ui/take/notes.math";
import { BeatRules } from "./BeatRules";
import { Labels, Marks } from "./Marks";
import { dot, type Label, lineFrom, type Mark } from "./marks.math";
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
  const { stems, heads, labels } = drawn(axis, notes);
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
      <Marks marks={[...stems, ...heads]} />
      <Labels labels={labels} />
    </svg>
  );
});

type Level = NonNullable<SheetNote["note"]["level"]>;
type Length = NonNullable<SheetNote["note"]["length"]>;

interface Drawn {
  stems: Mark[];
  heads: Mark[];
  labels: Label[];
}

function drawn(axis: Axis, notes: readonly SheetNote[]): Drawn {
  const found: Drawn = { stems: [], heads: [], labels: [] };
  for (const { note, event } of notes) {
    const { level, length, onset_s: onset, end_s: end } = note;
    if (onset === null || end === null) continue;
    const x = xOf(axis, onset);
    if (level && level.level_db !== null) loudness(found, level, x + 5, event?.accent ?? false);
    if (length && length.length_ratio !== null)
      sounds(found, length, x, xOf(axis, end), axis.pxPerSecond / 1000);
  }
  return found;
}

function loudness(found: Drawn, level: Level, x: number, accent: boolean) {
  const outside = level.verdict === "outside";
  const soft = (level.deviation_db ?? 0) < 0 || level.dies || level.way === "accented";
  const colour = !outside ? "var(--ink)" : soft ? "var(--under)" : "var(--over)";
  const top = y(level.level_db ?? 0);
  const hollow = level.way === "slurred" || level.way === "tapped";
  found.stems.push({
    d: lineFrom(x, FLOOR, x, top),
    stroke: colour,
    width: outside ? 2.2 : 1,
    opacity: outside ? 1 : 0.55,
  });
  found.heads.push({
    d: dot(x, top, 3.4),
    fill: hollow ? "var(--paper)" : colour,
    stroke: colour,
    width: 1.6,
    dash: level.verdict === "unclear" ? "2 1.6" : undefined,
  });
  if (accent) found.heads.push({ d: `M${x - 5} ${top - 6}l5 -4l5 4`, stroke: colour, width: 1.6 });
  if (outside && !level.dies)
    found.labels.push({ x: x + 6, y: top + 4, text: decibels(level.deviation_db ?? 0), colour });
}

const decibels = (db: number) => `${db < 0 ? "−" : "+"}${Math.abs(db).toFixed(0)}`;

function sounds(found: Drawn, length: Length, from: number, to: number, pxPerMs: number) {
  const outside = length.verdict === "outside";
  const short = (length.length_ratio ?? 1) < 1;
  const colour = !outside ? "var(--ink)" : short ? "var(--under)" : "var(--over)";
  const over = (length.overlap_ms ?? 0) * pxPerMs;
  found.stems.push({
    d: lineFrom(from + 1, FLOOR + 5, Math.max(from + 2, to - 1), FLOOR + 5),
    stroke: colour,
    width: outside ? 3 : 1.6,
  });
  if (over > 1)
    found.stems.push({
      d: lineFrom(to, FLOOR + 9, to + over, FLOOR + 9),
      stroke: outside ? "var(--ring)" : "var(--ink-soft)",
      width: outside ? 3 : 1.4,
    });
}
