// Takes sound off the audio thread, sample for sample, and says when some was lost. Runs in an AudioWorklet.

const QUANTUM = 128;
const BLOCK = 2048;
// Browsers hold about this much sound that came in while the audio thread did not get its turn; more is dropped, with
// no hole of zeros and no jump of the frame count. What they hold stays: once it is full, all further delay is lost,
// a buffer of ten milliseconds at a time.
const HELD_UP_MS = 100;
const BUFFER_MS = 10;
// Two clocks drift apart by far less than this, ms a second.
const DRIFT = 1;

class Capture extends AudioWorkletProcessor {
  constructor({ processorOptions } = {}) {
    super();
    // Some sound cards ask for a fifth of a second at once: turns are late by that much and nothing is lost.
    this.patienceMs = HELD_UP_MS + 1000 * (processorOptions?.burstS ?? 0);
    this.expected = null;
    this.filled = 0;
    this.first = 0;
    this.channels = [];
    this.going = true;
    this.least = Number.POSITIVE_INFINITY;
    this.port.onmessage = ({ data }) => {
      if (data === "flush") this.send();
      if (data === "end") this.going = false;
    };
  }

  send() {
    if (this.filled > 0) {
      const channels = this.channels.map((channel) => channel.slice(0, this.filled));
      this.port.postMessage(
        { kind: "block", frame: this.first, channels },
        channels.map((channel) => channel.buffer),
      );
    }
    this.filled = 0;
    this.port.postMessage({ kind: "flushed" });
  }

  /** How far the frames are behind the clock on the wall, against the least it has been: late turns. */
  heldUp(frame) {
    const behind = Date.now() - (frame / sampleRate) * 1000;
    const lostMs = behind - this.least - this.patienceMs;
    if (lostMs >= BUFFER_MS) {
      this.port.postMessage({ kind: "gap", frame, frames: Math.ceil((lostMs / 1000) * sampleRate) });
      this.least += lostMs;
    }
    this.least = Math.min(behind, this.least + (DRIFT * QUANTUM) / sampleRate);
  }

  process([input]) {
    const frame = currentFrame;
    this.heldUp(frame);
    if (this.expected !== null && frame > this.expected)
      this.port.postMessage({ kind: "gap", frame: this.expected, frames: frame - this.expected });
    this.expected = frame + QUANTUM;
    if (input.length === 0) return this.going;
    if (this.channels.length !== input.length) {
      this.filled = 0;
      this.channels = input.map(() => new Float32Array(BLOCK));
    }
    if (this.filled === 0) this.first = frame;
    input.forEach((samples, i) => {
      this.channels[i].set(samples, this.filled);
    });
    this.filled += QUANTUM;
    if (this.filled >= BLOCK) {
      const channels = this.channels;
      this.channels = channels.map(() => new Float32Array(BLOCK));
      this.filled = 0;
      this.port.postMessage(
        { kind: "block", frame: this.first, channels },
        channels.map((channel) => channel.buffer),
      );
    }
    return this.going;
  }
}

registerProcessor("fortimetra-capture", Capture);
