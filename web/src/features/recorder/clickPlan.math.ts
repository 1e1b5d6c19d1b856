/** When a drill's click sounds. Pure; times are seconds after the first click of the count-in. */
import type { DrillContent } from "~/api/client";

export interface ClickSettings {
  /** Clicks a beat. */
  subdivision: 1 | 2 | 3 | 4;
  accent: boolean;
  /** Bars with and without click in turn, after the count-in; 0 without: always. */
  barsOn: number;
  barsOff: number;
  /** dB under full scale; −100 is silent. */
  levelDb: number;
  /** Beats a minute, or null for the drill's own. */
  bpm: number | null;
}

export interface PlannedClick {
  at: number;
  /** Beats from beat 0 of the first repeat; the count-in is negative. */
  beat: number;
  kind: "accent" | "beat" | "between";
  silent: boolean;
}

export interface ClickPlan {
  clicks: PlannedClick[];
  /** Seconds after the first click at which beat 0 of the first repeat stands, and at which the last repeat ends. */
  firstBeat: number;
  end: number;
  secondsPerBeat: number;
}

export const ALWAYS: ClickSettings = {
  subdivision: 1,
  accent: true,
  barsOn: 1,
  barsOff: 0,
  levelDb: -6,
  bpm: null,
};

/** The clicks of a whole take, or null for a drill in free time. */
export function planClicks(
  content: DrillContent,
  lengthBeats: number,
  settings: ClickSettings,
): ClickPlan | null {
  const { tempo } = content;
  if (!tempo) return null;
  const spb = 60 / (settings.bpm ?? tempo.bpm);
  const beats = Math.round(lengthBeats * content.repeats);
  const clicks: PlannedClick[] = [];
  for (let beat = -tempo.count_in_beats; beat < beats; beat += 1) {
    const inBar = ((beat % tempo.beats_per_bar) + tempo.beats_per_bar) % tempo.beats_per_bar;
    const bar = Math.floor(beat / tempo.beats_per_bar);
    const turn = settings.barsOn + settings.barsOff;
    const silent = beat >= 0 && settings.barsOff > 0 && bar % turn >= settings.barsOn;
    for (let part = 0; part < settings.subdivision; part += 1) {
      const at = beat + part / settings.subdivision;
      const kind = part > 0 ? "between" : inBar === 0 && settings.accent ? "accent" : "beat";
      clicks.push({ at: (at + tempo.count_in_beats) * spb, beat: at, kind, silent });
    }
  }
  return {
    clicks,
    firstBeat: tempo.count_in_beats * spb,
    end: (tempo.count_in_beats + beats) * spb,
    secondsPerBeat: spb,
  };
}

/** The drill's tempo ladder: steps of four below and above its own tempo, which is among them, and so is the one that is set. */
export function ladder(bpm: number, set: number | null = null): number[] {
  const steps: number[] = [];
  for (let step = -6; step <= 3; step += 1) {
    const at = bpm + 4 * step;
    if (at >= 20 && at <= 400) steps.push(Math.round(at * 100) / 100);
  }
  if (set !== null && !steps.includes(set)) steps.push(set);
  return steps.sort((a, b) => a - b);
}

/** The count-in number or bar and beat that is heard now, for those who look. */
export function beatShown(
  beat: number,
  perBar: number,
): { count: string; first: boolean; counting: boolean } {
  const whole = Math.floor(beat + 1e-6);
  const inBar = ((whole % perBar) + perBar) % perBar;
  return { count: String(inBar + 1), first: inBar === 0, counting: whole < 0 };
}
