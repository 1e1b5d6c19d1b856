/** The Tune strip: cents from the target to pixels, and contours to paths. Vertical pixels grow downward. */
import type { Curves, Note } from "~/api/client";
import { type Axis, secondsAt, xOf } from "./axis.math";

const LINEAR_CENTS = 50;
const LINEAR_SHARE = 0.68;
const MOST_CENTS = 420;

/** −1 (far flat) … 1 (far sharp): linear to ±50 cents, logarithmic beyond, ends at ±420. */
export function squeeze(cents: number): number {
  const size = Math.min(MOST_CENTS, Math.abs(cents));
  const place =
    size <= LINEAR_CENTS
      ? (size / LINEAR_CENTS) * LINEAR_SHARE
      : LINEAR_SHARE +
        ((1 - LINEAR_SHARE) * Math.log(size / LINEAR_CENTS)) / Math.log(MOST_CENTS / LINEAR_CENTS);
  return cents < 0 ? -place : place;
}

export function yOfCents(cents: number, heightPx: number): number {
  return (heightPx / 2) * (1 - squeeze(cents));
}

/** Pitch in the curves' unit: cents above MIDI 0 at A4 = 440 Hz. */
export function pitchCents(hz: number): number {
  return 6900 + 1200 * Math.log2(hz / 440);
}

/** What the note was held against, Hz: the bend's reference, or the plain pitch it was asked for. Null if neither is known. */
export function targetHz(note: Note): number | null {
  if (note.bend) return note.bend.reference_hz;
  const pitch = note.pitch;
  if (pitch?.median_hz && pitch.error_cents !== null)
    return pitch.median_hz / 2 ** (pitch.error_cents / 1200);
  return null;
}

/** SVG path of the contour from..to seconds, relative to a target; unvoiced frames are gaps, frames closer than ¾ px are skipped. */
export function contourPath(
  curves: Curves,
  from: number,
  to: number,
  targetHzValue: number,
  x: (seconds: number) => number,
  y: (cents: number) => number,
  pxPerSecond: number,
): string {
  const target = pitchCents(targetHzValue);
  const step = Math.max(1, Math.floor(0.75 / (pxPerSecond * curves.hop_s)));
  const first = Math.max(0, Math.ceil(from / curves.hop_s));
  const last = Math.min(curves.pitch_cents.length - 1, Math.floor(to / curves.hop_s));
  let path = "";
  let drawing = false;
  for (let i = first; i <= last; i += step) {
    const pitch = curves.pitch_cents[i];
    if (pitch === null || pitch === undefined) {
      drawing = false;
      continue;
    }
    path += `${drawing ? "L" : "M"}${x(i * curves.hop_s).toFixed(1)} ${y(pitch - target).toFixed(1)}`;
    drawing = true;
  }
  return path;
}

/** The largest excursion of the waveform, at least what a silent take is drawn against. */
export function outlinePeak(curves: Curves): number {
  return curves.outline_high.reduce(
    (most, high, i) => Math.max(most, high, -(curves.outline_low[i] ?? 0)),
    0.02,
  );
}

/** Outline of the waveform over a stretch of the axis as one closed path, one column a pixel. */
export function outlinePath(
  curves: Curves,
  axis: Axis,
  heightPx: number,
  peak: number = outlinePeak(curves),
): string {
  const columnS = Math.max(curves.outline_step_s, 1 / axis.pxPerSecond);
  const perColumn = Math.max(1, Math.round(columnS / curves.outline_step_s));
  const top: string[] = [];
  const bottom: string[] = [];
  // Columns begin at multiples of their width, so that the outline does not shimmer as it scrolls.
  const first = Math.floor(secondsAt(axis, 0) / curves.outline_step_s / perColumn) * perColumn;
  const end = Math.min(
    curves.outline_high.length,
    Math.ceil(secondsAt(axis, axis.widthPx) / curves.outline_step_s) + perColumn,
  );
  for (let i = first; i < end; i += perColumn) {
    let high = 0;
    let low = 0;
    for (let k = i; k < Math.min(i + perColumn, end); k += 1) {
      high = Math.max(high, curves.outline_high[k] ?? 0);
      low = Math.min(low, curves.outline_low[k] ?? 0);
    }
    const x = xOf(axis, i * curves.outline_step_s).toFixed(1);
    top.push(`${x} ${((heightPx / 2) * (1 - high / peak)).toFixed(1)}`);
    bottom.push(`${x} ${((heightPx / 2) * (1 - low / peak)).toFixed(1)}`);
  }
  return top.length ? `M${top.join("L")}L${bottom.reverse().join("L")}Z` : "";
}
