/** The sheet's horizontal axis: CSS pixels from the left edge of the strips, seconds of the take, beats of the drill. */

export interface Axis {
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
    pxPerSecond,
    durationS,
    widthPx: Math.ceil(durationS * pxPerSecond) + 2 * LEAD_PX,
    grid: known
      ? { firstBeatS: grid.first_beat_s as number, secondsPerBeat: 60 / (grid.bpm as number) }
      : null,
  };
}

export function xOf(axis: Axis, seconds: number): number {
  return LEAD_PX + seconds * axis.pxPerSecond;
}

export function secondsAt(axis: Axis, x: number): number {
  return Math.min(axis.durationS, Math.max(0, (x - LEAD_PX) / axis.pxPerSecond));
}

export function secondsOfBeat(axis: Axis, beat: number): number | null {
  return axis.grid ? axis.grid.firstBeatS + beat * axis.grid.secondsPerBeat : null;
}

export interface BeatLine {
  x: number;
  kind: "repeat" | "bar" | "beat";
  label: string;
}

/** Lines of the beat grid over all repeats; a repeat is lengthBeats long. Without a grid: whole seconds. */
export function beatLines(axis: Axis, repeats: number, lengthBeats: number, beatsPerBar: number): BeatLine[] {
  if (!axis.grid) {
    const lines: BeatLine[] = [];
    for (let s = 0; s <= axis.durationS; s += 1) {
      lines.push({ x: xOf(axis, s), kind: s % 5 === 0 ? "bar" : "beat", label: s % 5 === 0 ? `${s} s` : "" });
    }
    return lines;
  }
  const lines: BeatLine[] = [];
  for (let beat = 0; beat <= repeats * lengthBeats; beat += 1) {
    const inRepeat = beat % lengthBeats;
    const seconds = secondsOfBeat(axis, beat) as number;
    if (seconds < 0 || seconds > axis.durationS) continue;
    const repeat = Math.floor(beat / lengthBeats);
    const isEnd = repeat === repeats;
    if (inRepeat === 0) {
      lines.push({ x: xOf(axis, seconds), kind: "repeat", label: isEnd ? "" : `repeat ${repeat + 1}` });
    } else if (inRepeat % beatsPerBar === 0) {
      lines.push({ x: xOf(axis, seconds), kind: "bar", label: "" });
    } else {
      lines.push({ x: xOf(axis, seconds), kind: "beat", label: "" });
    }
  }
  return lines;
}
