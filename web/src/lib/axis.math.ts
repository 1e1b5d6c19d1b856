/** The sheet's horizontal axis: CSS pixels from the left edge of the strips, seconds of the take, beats of the drill. */

export interface Axis {
  /** What is drawn begins at this pixel of the whole axis; x is counted from there. */
  originPx: number;
  pxPerSecond: number;
  durationS: number;
  widthPx: number;
  /** Seconds per beat and the time of beat 0 of the first repeat; null where the take has no grid. */
  grid: { firstBeatS: number; secondsPerBeat: number } | null;
}

export const LEAD_PX = 12;

export function makeAxis(
  durationS: number,
  pxPerSecond: number,
  grid: { bpm: number | null; first_beat_s: number | null },
): Axis {
  const known = grid.bpm !== null && grid.first_beat_s !== null;
  return {
    originPx: 0,
    pxPerSecond,
    durationS,
    widthPx: Math.ceil(durationS * pxPerSecond) + 2 * LEAD_PX,
    grid: known
      ? { firstBeatS: grid.first_beat_s as number, secondsPerBeat: 60 / (grid.bpm as number) }
      : null,
  };
}

/** A stretch of an axis with an origin of its own: only what is looked at is drawn, and its pixels stay small numbers. */
export function stretchOf(axis: Axis, fromPx: number, widthPx: number): Axis {
  const from = Math.max(0, Math.min(fromPx, axis.widthPx));
  return { ...axis, originPx: from, widthPx: Math.max(1, Math.min(widthPx, axis.widthPx - from)) };
}

export function xOf(axis: Axis, seconds: number): number {
  return LEAD_PX + seconds * axis.pxPerSecond - axis.originPx;
}

export function secondsAt(axis: Axis, x: number): number {
  return Math.min(axis.durationS, Math.max(0, (x + axis.originPx - LEAD_PX) / axis.pxPerSecond));
}

/** Pixels a second at which a whole take is as wide as what it is shown in. */
export function wholeTake(durationS: number, widthPx: number): number {
  return Math.max(0.2, (widthPx - 2 * LEAD_PX) / Math.max(0.1, durationS));
}

/** One cycle of a slow vibrato fills a screen. */
export const MOST_PX_PER_S = 5000;

/** Closer (over 1) or further by a factor, between the whole take and one cycle of vibrato. */
export function zoomed(pxPerSecond: number, factor: number, durationS: number, widthPx: number): number {
  return Math.min(MOST_PX_PER_S, Math.max(wholeTake(durationS, widthPx), pxPerSecond * factor));
}

export function secondsOfBeat(axis: Axis, beat: number): number | null {
  return axis.grid ? axis.grid.firstBeatS + beat * axis.grid.secondsPerBeat : null;
}

export interface BeatLine {
  x: number;
  kind: "repeat" | "bar" | "beat";
  label: string;
}

const LEAST_LINE_PX = 5;
const LEAST_LABEL_PX = 60;

/**
 * Lines of the beat grid over all repeats, those of the stretch; a repeat is lengthBeats long. Without a grid: seconds.
 * Where they would stand closer than a few pixels only bars, or repeats, are left.
 */
export function beatLines(
  axis: Axis,
  repeats: number,
  lengthBeats: number,
  beatsPerBar: number,
  /** Lines so far outside the stretch are given too, for what is written beside them. */
  reachPx = 0,
): BeatLine[] {
  const from = secondsAt(axis, -reachPx);
  const to = secondsAt(axis, axis.widthPx + reachPx);
  const lines: BeatLine[] = [];
  if (!axis.grid) {
    const step = [1, 5, 30, 60].find((s) => s * axis.pxPerSecond >= LEAST_LINE_PX) ?? 60;
    for (let s = Math.ceil(from / step) * step; s <= to; s += step) {
      const bar = s % (5 * step) === 0;
      lines.push({ x: xOf(axis, s), kind: bar ? "bar" : "beat", label: bar ? `${s} s` : "" });
    }
    return lines;
  }
  const { firstBeatS, secondsPerBeat } = axis.grid;
  const beatPx = secondsPerBeat * axis.pxPerSecond;
  const last = Math.min(repeats * lengthBeats, Math.floor((to - firstBeatS) / secondsPerBeat));
  // Every so many repeats have their number written, the same ones whatever stretch is drawn.
  const every = Math.max(1, Math.ceil(LEAST_LABEL_PX / Math.max(1e-6, beatPx * lengthBeats)));
  for (let beat = Math.max(0, Math.ceil((from - firstBeatS) / secondsPerBeat)); beat <= last; beat += 1) {
    const inRepeat = beat % lengthBeats;
    const x = xOf(axis, firstBeatS + beat * secondsPerBeat);
    const repeat = Math.floor(beat / lengthBeats);
    if (inRepeat === 0) {
      const named = repeat < repeats && repeat % every === 0;
      lines.push({ x, kind: "repeat", label: named ? `repeat ${repeat + 1}` : "" });
    } else if (inRepeat % beatsPerBar === 0) {
      if (beatPx * beatsPerBar >= LEAST_LINE_PX) lines.push({ x, kind: "bar", label: "" });
    } else if (beatPx >= LEAST_LINE_PX) {
      lines.push({ x, kind: "beat", label: "" });
    }
  }
  return lines;
}
