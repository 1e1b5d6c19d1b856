/** How long sound takes out of the loudspeaker and back through the input. Pure. */

export interface Latency {
  ms: number;
  /** Half the distance between the quartiles of the single readings. */
  spreadMs: number;
  found: number;
  of: number;
}

export const PROBES = 8;
export const LONGEST_MS = 700;
const FIRST_AT_S = 0.3;
// Uneven, so that an echo of one probe is not another.
const DISTANCES_S = [0.83, 0.91, 0.79, 0.97, 0.87, 0.93, 0.81, 0.89];
const PROBE_S = 0.006;
const FROM_HZ = 1200;
const TO_HZ = 5200;
// The direct sound is the first that comes near the strongest: an echo may be louder, but never earlier.
const DIRECT_SHARE = 0.6;
const LEAST_LIKENESS = 0.35;
const LEAST_FOUND = 5;
const MOST_SPREAD_MS = 1;

/** A short rising sweep under a Hann window. */
export function probe(rateHz: number): Float32Array {
  const frames = Math.round(PROBE_S * rateHz);
  return Float32Array.from({ length: frames }, (_, i) => {
    const t = i / rateHz;
    const phase = 2 * Math.PI * (FROM_HZ * t + ((TO_HZ - FROM_HZ) * t * t) / (2 * PROBE_S));
    return (0.5 - 0.5 * Math.cos((2 * Math.PI * i) / (frames - 1))) * Math.sin(phase);
  });
}

/** When the probes are played, seconds after the beginning. */
export function probeTimes(): number[] {
  let at = FIRST_AT_S;
  return DISTANCES_S.slice(0, PROBES).map((distance) => {
    const now = at;
    at += distance;
    return now;
  });
}

export function calibrationSeconds(): number {
  return (probeTimes().at(-1) ?? 0) + LONGEST_MS / 1000 + 0.2;
}

/**
 * The round trip, from what came back while the probes were played.
 *
 * sentAt: seconds in `heard` at which each probe was scheduled. Null where too few came back alike, or they disagree.
 */
export function latencyOf(heard: Float32Array, rateHz: number, sentAt: readonly number[]): Latency | null {
  const sent = probe(rateHz);
  const readings: number[] = [];
  for (const at of sentAt) {
    const found = delayOf(heard, rateHz, at, sent);
    if (found !== null) readings.push(found);
  }
  if (readings.length < Math.min(LEAST_FOUND, sentAt.length)) return null;
  readings.sort((a, b) => a - b);
  const at = (share: number) => readings[Math.round(share * (readings.length - 1))] as number;
  const spread = (at(0.75) - at(0.25)) / 2;
  if (spread > MOST_SPREAD_MS) return null;
  const middle = readings.length >> 1;
  const median =
    readings.length % 2 ? at(0.5) : ((readings[middle - 1] as number) + (readings[middle] as number)) / 2;
  return { ms: median, spreadMs: spread, found: readings.length, of: sentAt.length };
}

/** Milliseconds after `at` at which a probe comes back, by a normalised matched filter; null where nothing is like it. */
function delayOf(heard: Float32Array, rateHz: number, at: number, sent: Float32Array): number | null {
  const start = Math.round(at * rateHz);
  const lags = Math.min(Math.round((LONGEST_MS / 1000) * rateHz), heard.length - start - sent.length);
  if (lags < 2) return null;
  let own = 0;
  for (const sample of sent) own += sample * sample;
  const match = new Float64Array(lags);
  const likeness = new Float64Array(lags);
  let energy = 0;
  for (let i = 0; i < sent.length; i += 1) energy += (heard[start + i] as number) ** 2;
  for (let lag = 0; lag < lags; lag += 1) {
    let sum = 0;
    for (let i = 0; i < sent.length; i += 1) sum += (sent[i] as number) * (heard[start + lag + i] as number);
    match[lag] = Math.abs(sum);
    likeness[lag] = energy > 1e-12 ? Math.abs(sum) / Math.sqrt(own * energy) : 0;
    energy += (heard[start + lag + sent.length] as number) ** 2 - (heard[start + lag] as number) ** 2;
    if (energy < 0) energy = 0;
  }
  let best = 0;
  for (let lag = 1; lag < lags; lag += 1) if ((match[lag] as number) > (match[best] as number)) best = lag;
  if ((likeness[best] as number) < LEAST_LIKENESS) return null;
  let first = best;
  for (let lag = 1; lag < best; lag += 1) {
    const here = match[lag] as number;
    const peak = here >= (match[lag - 1] as number) && here >= (match[lag + 1] as number);
    if (
      peak &&
      here >= DIRECT_SHARE * (match[best] as number) &&
      (likeness[lag] as number) >= LEAST_LIKENESS
    ) {
      // The sweep's own side lobes stand close by its middle; take the highest of them.
      first = highestNear(match, lag, Math.round(0.0005 * rateHz));
      break;
    }
  }
  const [a, b, c] = [match[first - 1] ?? 0, match[first] as number, match[first + 1] ?? 0];
  const bend = a - 2 * b + c;
  const part = bend < 0 ? (0.5 * (a - c)) / bend : 0;
  const exact = start - at * rateHz + first + part;
  return (1000 * exact) / rateHz;
}

function highestNear(match: Float64Array, at: number, reach: number): number {
  let best = at;
  for (let lag = at; lag <= Math.min(match.length - 2, at + reach); lag += 1)
    if ((match[lag] as number) > (match[best] as number)) best = lag;
  return best;
}
