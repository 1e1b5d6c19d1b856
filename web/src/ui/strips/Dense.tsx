import { memo } from "react";
import { type Axis, type BeatLine, xOf } from "~/lib/axis.math";
import type { SheetNote } from "~/ui/take/notes.math";
import { BeatRules } from "./BeatRules";
import { Marks } from "./Marks";
import { lineFrom } from "./marks.math";

/** How a note stands in a strip that is drawn from far away: from where to where, and what that says. */
export interface Stroke {
  y0: number;
  y1: number;
  says: "ink" | "under" | "over" | "unclear";
}

const COLOURS = { ink: "var(--ink)", unclear: "var(--unclear)", under: "var(--under)", over: "var(--over)" };

/** A strip of very many notes: a stroke each. */
export const DenseStrip = memo(function DenseStrip({
  axis,
  lines,
  height,
  zeroY,
  notes,
  strokeOf,
  testid,
}: {
  axis: Axis;
  lines: BeatLine[];
  height: number;
  zeroY: number;
  notes: readonly SheetNote[];
  strokeOf: (note: SheetNote) => Stroke | null;
  testid?: string;
}) {
  const strokes = notes.flatMap((one) => {
    if (one.note.onset_s === null) return [];
    const stroke = strokeOf(one);
    return stroke ? [{ ...stroke, x: xOf(axis, one.note.onset_s) }] : [];
  });
  // What is not clean lies over what is.
  const marks = (Object.keys(COLOURS) as Stroke["says"][]).flatMap((says) =>
    strokes
      .filter((stroke) => stroke.says === says)
      .map(({ x, y0, y1 }) => ({
        d: lineFrom(x, y0, x, y1),
        stroke: COLOURS[says],
        width: says === "ink" ? 1 : 1.6,
        dash: says === "unclear" ? "2 1.5" : undefined,
      })),
  );
  return (
    <svg
      width={axis.widthPx}
      height={height}
      className="block border-t border-rule"
      aria-hidden="true"
      data-testid={testid}
    >
      <BeatRules lines={lines} height={height} />
      <line x1={0} x2={axis.widthPx} y1={zeroY} y2={zeroY} stroke="var(--rule-strong)" strokeWidth={0.8} />
      <Marks marks={marks} />
    </svg>
  );
});
