/** Passages of a take put together for listening: cut, corrected, with clicks and tones in the very samples. */
import { clickAt } from "./click";

/** A part of the take, s; cents: raised (or lowered) by so much. */
export interface Piece {
  from: number;
  to: number;
  cents?: number;
}

export interface Passage {
  from: number;
  to: number;
  /** Hz of the target tone, or null for none. */
  toneHz: number | null;
  /** Whether the recording itself is heard. */
  withTake: boolean;
  rate: number;
  /** Only these frequencies are let through, Hz, and turned up; without them, everything. */
  bands?: readonly number[];
  /** How far they are turned up, dB. */
  liftDb?: number;
  loop?: boolean;
  /** Clicks at moments of the take. */
  clicks?: readonly { at: number; accent: boolean }[];
  /** One after the other, with a pause between, instead of from … to. */
  pieces?: readonly Piece[];
}

export const GAP_S = 0.3;
const FADE_S = 0.008;
const TONE_PARTIALS = [0, 1, 0.5, 0.33, 0.2, 0.12];
const TONE_LEVEL = 0.16;
const TONE_FADE_S = 0.015;
const CLICK_LEVEL = 0.9;

/** Pieces on the time line of what is heard: where each begins, s, and what of the take it plays, at which speed. */
export interface Laid {
  startS: number;
  lengthS: number;
  from: number;
  speed: number;
}

export function laidOut(passage: Passage): Laid[] {
  const pieces = passage.pieces ?? [{ from: passage.from, to: passage.to }];
  let at = 0;
  return pieces.map((piece) => {
    const speed = 2 ** ((piece.cents ?? 0) / 1200);
    const laid = { startS: at, lengthS: (piece.to - piece.from) / speed, from: piece.from, speed };
    at += laid.lengthS + GAP_S;
    return laid;
  });
}

export function lengthOf(laid: readonly Laid[]): number {
  const last = laid.at(-1);
  return last ? last.startS + last.lengthS : 0;
}

/** The moment of the take that is heard so many seconds into a passage. */
export function takeTime(laid: readonly Laid[], heardS: number): number | null {
  const piece = laid.findLast((l) => heardS >= l.startS);
  if (!piece) return null;
  return piece.from + Math.min(piece.lengthS, heardS - piece.startS) * piece.speed;
}

/** Whether a passage has to be put together first, or can be played as it lies in the take. */
export function isPlain(passage: Passage): boolean {
  return !passage.pieces && !passage.clicks?.length && passage.rate === 1;
}

/** The passage as one sound, mono: everything in it is exactly where it belongs, at whatever speed it is played then. */
export async function putTogether(take: AudioBuffer, passage: Passage): Promise<AudioBuffer> {
  const laid = laidOut(passage);
  const seconds = Math.max(0.05, lengthOf(laid));
  const context = new OfflineAudioContext(1, Math.ceil(seconds * take.sampleRate), take.sampleRate);
  for (const piece of laid) {
    const source = new AudioBufferSourceNode(context, { buffer: take, playbackRate: piece.speed });
    const gain = new GainNode(context, { gain: 0 });
    source.connect(gain).connect(context.destination);
    faded(gain.gain, piece.startS, piece.lengthS, 1, FADE_S);
    source.start(piece.startS, Math.max(0, piece.from), piece.lengthS * piece.speed);
  }
  const first = laid[0];
  if (first && passage.clicks?.length) {
    const louder = new GainNode(context, { gain: CLICK_LEVEL });
    louder.connect(context.destination);
    for (const click of passage.clicks)
      clickAt(context, louder, Math.max(0, click.at - first.from), click.accent);
  }
  if (passage.toneHz !== null) tone(context, context.destination, passage.toneHz, 0, seconds);
  return context.startRendering();
}

function faded(gain: AudioParam, startS: number, lengthS: number, level: number, fadeS: number) {
  gain.setValueAtTime(0, startS);
  gain.linearRampToValueAtTime(level, startS + fadeS);
  gain.setValueAtTime(level, startS + Math.max(fadeS, lengthS - fadeS));
  gain.linearRampToValueAtTime(0, startS + Math.max(2 * fadeS, lengthS));
}

/** A tone with a few partials from a moment of the context on; returns how to end it before its time. */
export function tone(
  context: BaseAudioContext,
  to: AudioNode,
  hz: number,
  startS: number,
  seconds: number,
): () => void {
  const wave = context.createPeriodicWave(
    new Float32Array(TONE_PARTIALS.length),
    new Float32Array(TONE_PARTIALS),
  );
  const oscillator = new OscillatorNode(context, { type: "custom", periodicWave: wave, frequency: hz });
  const gain = new GainNode(context, { gain: 0 });
  oscillator.connect(gain).connect(to);
  faded(gain.gain, startS, seconds, TONE_LEVEL, TONE_FADE_S);
  oscillator.start(startS);
  oscillator.stop(startS + seconds + 0.05);
  return () => {
    gain.gain.cancelScheduledValues(context.currentTime);
    gain.gain.setTargetAtTime(0, context.currentTime, TONE_FADE_S / 3);
    oscillator.stop(context.currentTime + 0.05);
  };
}
