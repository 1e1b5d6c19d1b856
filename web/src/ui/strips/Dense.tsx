import { memo } from "react";
import { type Axis, type BeatLine, xOf } from "~/lib/axis.math";
import type { SheetNote } from "~/ui/take/notes.math";
import { BeatRules } from "./BeatRules";

/** How a note stands in a strip that is drawn from far away: from where to where, and what that says. */
export interface Stroke {
  y0: number;
  y1: number;
  says: "ink" | "under" | "over" | "unclear";
}

const COLOURS = { ink: "var(--ink)", under: "var(--under)", over: "var(--over)", unclear: "var(--unclear)" };

/** A strip of very many notes: a stroke each, one path a colour. */
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
  const paths = { ink: "", unclear: "", under: "", over: "" };
  for (const note of notes) {
    const stroke = strokeOf(note);
    if (!stroke || note.note.onset_s === null) continue;
    paths[stroke.says] +=
      `M${xOf(axis, note.note.onset_s).toFixed(1)} ${stroke.y0.toFixed(1)}V${stroke.y1.toFixed(1)}`;
  }
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
      {(Object.keys(paths) as (keyof typeof paths)[]).map((says) => (
        <path
          key={says}
          d={paths[says]}
          stroke={COLOURS[says]}
          strokeWidth={says === "ink" ? 1 : 1.6}
          strokeDasharray={says === "unclear" ? "2 1.5" : undefined}
          fill="none"
        />
      ))}
    </svg>
  );
});
