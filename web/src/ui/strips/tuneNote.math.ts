import type { Curves } from "~/api/client";
import { type Axis, xOf } from "~/lib/axis.math";
import { contourPath, targetHz } from "~/lib/tune.math";
import {
  type Deviation,
  deviations,
  errorCents,
  markOf,
  type SheetNote,
  type Tolerances,
  toleranceCents,
} from "~/ui/take/notes.math";
import { box, type Label, lineFrom, type Mark } from "./marks.math";
import type { Tune } from "./tuneHeight";

/** Half a window of the contour: nearer to its end a note's pitch is mixed with the next one's. */
const WINDOW_S = 0.012;

/** One note in the Tune strip: its tolerance, its contour, how far it is off. */
export interface TuneDrawn {
  ground: Mark[];
  curve: Mark[];
  off: Mark[];
  labels: Label[];
}

export interface TuneOf {
  axis: Axis;
  curves: Curves;
  tolerances: Tolerances;
  tune: Tune;
}

/** The contour of one note against its target, with its tolerance. */
export function drawnTune({ note, event }: SheetNote, { axis, curves, tolerances, tune }: TuneOf): TuneDrawn {
  const found: TuneDrawn = { ground: [], curve: [], off: [], labels: [] };
  const { y } = tune;
  const target = targetHz(note);
  if (note.onset_s === null || note.end_s === null || target === null) return found;
  const x = (seconds: number) => xOf(axis, seconds);
  const tolerance = toleranceCents(note, tolerances);
  const left = x(note.onset_s);
  const width = Math.max(2, x(Math.max(note.end_s, note.vibrato?.region?.[1] ?? 0)) - left);
  const held = note.bend?.plateau ?? null;
  const error = errorCents(note);
  const path = (from: number, to: number) => contourPath(curves, from, to, target, x, y, axis.pxPerSecond);
  const corridor = box(left, y(tolerance), width, y(-tolerance) - y(tolerance));
  found.ground.push({ d: corridor, fill: "var(--corridor)" });
  if (markOf(note) === "unclear")
    found.ground.push({ d: corridor, fill: "url(#cannot-tell)", opacity: 0.55 });
  found.ground.push({
    d: lineFrom(left, y(0), left + width, y(0)),
    stroke: "var(--rule-strong)",
    width: 0.8,
  });
  // Of two strings at once the contour follows neither; the difference is drawn instead.
  const chord = !event?.bend && (event?.notes?.filter((n) => !n.muted).length ?? 1) > 1;
  const together = chord || event?.bend?.kind === "unison";
  const shown = chord ? ([note.onset_s, note.end_s] as const) : held;
  if (!together) {
    const until = Math.max(note.end_s - WINDOW_S, note.vibrato?.region?.[1] ?? 0);
    found.curve.push({
      d: path(note.onset_s + 0.015, until),
      stroke: "var(--ink)",
      width: held ? 1 : 1.5,
      opacity: held ? 0.7 : 1,
    });
    if (held) found.curve.push({ d: path(held[0], held[1]), stroke: "var(--ink)", width: 2.4 });
  } else if (shown && error !== null) {
    found.curve.push({
      d: lineFrom(x(shown[0]), y(error), x(shown[1]), y(error)),
      stroke: "var(--ink)",
      width: 2.4,
    });
  }
  const share = labelShare(note, event);
  for (const one of deviations(note, tolerances)) drawOff(found, one, tolerance, share, axis, tune);
  return found;
}

/** Where along a note its number stands: notes of a chord share the place. */
function labelShare(note: SheetNote["note"], event: SheetNote["event"]): number {
  const strings = event?.notes?.filter((n) => !n.muted).map((n) => n.string) ?? [];
  const at = strings.indexOf(note.string ?? -1);
  return strings.length > 1 && at >= 0 ? (at + 0.5) / strings.length : 0.5;
}

/** The area between the band and the value: below it when flat, above it when sharp. */
function drawOff(
  found: TuneDrawn,
  { from, to, error, about }: Deviation,
  tolerance: number,
  share: number,
  axis: Axis,
  { heightPx, y }: Tune,
) {
  const [left, right] = [xOf(axis, from), xOf(axis, to)];
  const edge = about + (error < 0 ? -tolerance : tolerance);
  const tip = y(about + error);
  const colour = error < 0 ? "var(--under)" : "var(--over)";
  const top = Math.min(y(edge), tip);
  if (Math.abs(error) > tolerance)
    found.off.push({
      d: box(left, top, Math.max(2, right - left), Math.abs(y(edge) - tip)),
      fill: colour,
      opacity: 0.3,
    });
  found.off.push({ d: lineFrom(left, tip, right, tip), stroke: colour, width: 2.5 });
  found.labels.push({
    x: left + share * (right - left),
    y: error < 0 ? Math.min(heightPx - 2, tip + 14) : Math.max(10, tip - 6),
    text: `${error < 0 ? "−" : "+"}${Math.abs(error).toFixed(0)}`,
    colour,
    middle: true,
  });
}
