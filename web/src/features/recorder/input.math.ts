/** What the input check reads from the sound that comes in. Pure, block by block. */

export interface InputSeen {
  peakDbfs: number;
  rmsDbfs: number;
  /** The quietest tenth of the last seconds. */
  floorDbfs: number | null;
  /** Mains hum at 50 or 60 Hz above everything around it, dBFS, or null. */
  hum: { hz: number; dbfs: number } | null;
  clipped: boolean;
  /** Nothing but zeros has come for a while: no input. */
  dead: boolean;
}

/** Sound that was lost, by its place in what was recorded. */
export interface Gap {
  at_s: number;
  seconds: number;
}

const FLOOR_S = 4;
const HUM_S = 1;
const CLIP_FROM = 0.999;
const CLIP_SAMPLES = 2;
const HUM_OVER_AROUND_DB = 15;
const DEAD_S = 1;
const SILENT_DBFS = -120;
// Between two mains frequencies, where no harmonic of either lies.
const AROUND_HZ = [43, 68, 85, 130];

export function toDb(amplitude: number): number {
  return amplitude > 0 ? Math.max(SILENT_DBFS, 20 * Math.log10(amplitude)) : SILENT_DBFS;
}

/** Follows an input; give it every block in order. */
export class InputWatch {
  private readonly levels: number[] = [];
  private humBuffer: Float32Array;
  private humFilled = 0;
  private lastHum: InputSeen["hum"] = null;
  private zeros = 0;
  private clippedFor = 0;
  private readonly perLevel: number;

  constructor(
    private readonly rateHz: number,
    blockFrames: number,
  ) {
    this.perLevel = blockFrames;
    this.humBuffer = new Float32Array(Math.round(rateHz * HUM_S));
  }

  see(block: Float32Array): InputSeen {
    let peak = 0;
    let sum = 0;
    let over = 0;
    for (const sample of block) {
      const size = Math.abs(sample);
      if (size > peak) peak = size;
      if (size >= CLIP_FROM) over += 1;
      sum += sample * sample;
    }
    const rms = Math.sqrt(sum / Math.max(1, block.length));
    this.zeros = peak === 0 ? this.zeros + block.length : 0;
    this.clippedFor = over >= CLIP_SAMPLES ? this.rateHz * 2 : Math.max(0, this.clippedFor - block.length);
    this.levels.push(toDb(rms));
    const most = Math.ceil((FLOOR_S * this.rateHz) / this.perLevel);
    while (this.levels.length > most) this.levels.shift();
    this.gather(block);
    return {
      peakDbfs: toDb(peak),
      rmsDbfs: toDb(rms),
      floorDbfs: this.levels.length >= most / 4 ? quantile(this.levels, 0.1) : null,
      hum: this.lastHum,
      clipped: this.clippedFor > 0,
      dead: this.zeros > DEAD_S * this.rateHz,
    };
  }

  private gather(block: Float32Array) {
    const room = this.humBuffer.length - this.humFilled;
    this.humBuffer.set(block.subarray(0, Math.min(room, block.length)), this.humFilled);
    this.humFilled += Math.min(room, block.length);
    if (this.humFilled < this.humBuffer.length) return;
    this.lastHum = humIn(this.humBuffer, this.rateHz);
    this.humFilled = 0;
  }
}

/** Mains hum: 50 or 60 Hz and its third harmonic, over what lies between. */
export function humIn(sound: Float32Array, rateHz: number): InputSeen["hum"] {
  const around = AROUND_HZ.map((hz) => toneDbfs(sound, rateHz, hz)).sort((a, b) => a - b)[1] ?? SILENT_DBFS;
  const found = [50, 60].map((hz) => ({
    hz,
    dbfs: Math.max(toneDbfs(sound, rateHz, hz), toneDbfs(sound, rateHz, 3 * hz)),
  }));
  const [loudest] = found.sort((a, b) => b.dbfs - a.dbfs);
  return loudest && loudest.dbfs > around + HUM_OVER_AROUND_DB && loudest.dbfs > -75 ? loudest : null;
}

/** Level of one frequency under a Hann window (Goertzel). */
export function toneDbfs(sound: Float32Array, rateHz: number, hz: number): number {
  const omega = (2 * Math.PI * hz) / rateHz;
  const factor = 2 * Math.cos(omega);
  let one = 0;
  let two = 0;
  let window = 0;
  for (let i = 0; i < sound.length; i += 1) {
    const hann = 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / sound.length);
    window += hann;
    const now = hann * (sound[i] as number) + factor * one - two;
    two = one;
    one = now;
  }
  const power = one * one + two * two - factor * one * two;
  return toDb((2 * Math.sqrt(Math.max(0, power))) / window);
}

export function quantile(values: readonly number[], share: number): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))] ?? SILENT_DBFS;
}

/** Short runs of exact zeros inside a sound that is never exactly zero: what a browser writes where sound was lost. */
export function lostIn(sound: Float32Array, rateHz: number): Gap[] {
  const found: Gap[] = [];
  let start = -1;
  for (let i = 0; i <= sound.length; i += 1) {
    if (i < sound.length && sound[i] === 0) {
      if (start < 0) start = i;
      continue;
    }
    const inside = start > 0 && i < sound.length;
    if (inside && i - start >= LEAST_LOST_FRAMES && i - start <= MOST_LOST_S * rateHz)
      found.push({ at_s: start / rateHz, seconds: (i - start) / rateHz });
    start = -1;
  }
  return found.slice(0, 200);
}

/** Gaps in order of time, each said once where two ways found it. */
export function merged(gaps: readonly Gap[]): Gap[] {
  const found: Gap[] = [];
  for (const gap of [...gaps].sort((a, b) => a.at_s - b.at_s)) {
    const last = found.at(-1);
    if (last && gap.at_s <= last.at_s + last.seconds)
      last.seconds = Math.max(last.seconds, gap.at_s + gap.seconds - last.at_s);
    else found.push({ ...gap });
  }
  return found;
}

// A converter's noise makes no such runs; half a second of zeros is a gate or a muted input, and is said as such.
const LEAST_LOST_FRAMES = 96;
const MOST_LOST_S = 0.5;
