/** A sound card as a unit test wants it: it takes what it is given, plays nothing, and remembers what was started. */
import { vi } from "vitest";

export interface Started {
  /** Where in the take, s, and for how long; undefined: until it is stopped. */
  from: number | undefined;
  seconds: number | undefined;
  loop: boolean;
}

/** What was started since the card was plugged in, in its order; tones are started from undefined. */
export const started: Started[] = [];

const param = () => ({
  value: 0,
  setValueAtTime: () => undefined,
  linearRampToValueAtTime: () => undefined,
  exponentialRampToValueAtTime: () => undefined,
  setTargetAtTime: () => undefined,
});

class FakeNode {
  gain = param();
  frequency = param();
  detune = param();
  playbackRate = param();
  loop = false;
  buffer: unknown = null;
  onended: (() => void) | null = null;
  constructor(_context?: unknown, options?: { loop?: boolean; buffer?: unknown }) {
    this.loop = options?.loop ?? false;
    this.buffer = options?.buffer ?? null;
  }
  connect<T>(to: T): T {
    return to;
  }
  disconnect() {}
  setPeriodicWave() {}
  start(_when?: number, from?: number, seconds?: number) {
    started.push({ from, seconds, loop: this.loop });
  }
  stop() {}
}

class FakeBuffer {
  readonly numberOfChannels = 1;
  constructor(
    readonly length: number,
    readonly sampleRate: number,
  ) {}
  get duration() {
    return this.length / this.sampleRate;
  }
  getChannelData() {
    return new Float32Array(this.length);
  }
  copyToChannel() {}
}

class FakeContext {
  readonly destination = new FakeNode();
  readonly sampleRate = 48_000;
  readonly baseLatency = 0;
  readonly outputLatency = 0;
  /** It moves whenever somebody looks. */
  #time = 0;
  get currentTime() {
    this.#time += 0.001;
    return this.#time;
  }
  async decodeAudioData() {
    return new FakeBuffer(48_000 * 20, 48_000);
  }
  async startRendering() {
    return new FakeBuffer(48_000, 48_000);
  }
  createBuffer(_channels: number, length: number, rate: number) {
    return new FakeBuffer(length, rate);
  }
  createBufferSource() {
    return new FakeNode();
  }
  createOscillator() {
    return new FakeNode();
  }
  createGain() {
    return new FakeNode();
  }
  createPeriodicWave() {
    return {};
  }
  async resume() {}
  async close() {}
}

/** Plug it in for a test. */
export function plugInSound(): void {
  started.length = 0;
  for (const name of ["AudioContext", "OfflineAudioContext"]) vi.stubGlobal(name, FakeContext);
  for (const name of [
    "AudioBufferSourceNode",
    "GainNode",
    "BiquadFilterNode",
    "DynamicsCompressorNode",
    "OscillatorNode",
    "PeriodicWave",
  ])
    vi.stubGlobal(name, FakeNode);
}
