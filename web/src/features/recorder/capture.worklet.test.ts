import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

const RATE = 44_100;
const QUANTUM = 128;

interface Message {
  kind: string;
  frame: number;
  frames: number;
}

interface Processor {
  process(inputs: Float32Array[][]): boolean;
}

/** The audio thread as the browser runs it: turns of 128 frames, each at a time of the clock on the wall, ms. */
class Thread {
  readonly said: Message[] = [];
  private processor: Processor | null = null;
  private burstFrames = 1024;
  frame = 0;

  async start(burstFrames = 1024) {
    this.burstFrames = burstFrames;
    const said = this.said;
    const port = { onmessage: null, postMessage: (message: Message) => said.push(message) };
    vi.stubGlobal(
      "AudioWorkletProcessor",
      class {
        port = port;
      },
    );
    vi.stubGlobal("sampleRate", RATE);
    const made: (new (options: object) => Processor)[] = [];
    vi.stubGlobal("registerProcessor", (_: string, maker: (typeof made)[0]) => made.push(maker));
    vi.resetModules();
    // @ts-expect-error: the worklet is plain JavaScript
    await import("./capture.worklet.js");
    this.processor = made[0] ? new made[0]({ processorOptions: { burstS: burstFrames / RATE } }) : null;
  }

  turn(wallMs: number) {
    vi.setSystemTime(wallMs);
    vi.stubGlobal("currentFrame", this.frame);
    this.processor?.process([[new Float32Array(QUANTUM)]]);
    this.frame += QUANTUM;
  }

  /** Turns for so many seconds in bursts, as sound cards ask for them; the clock on the wall runs this much faster. */
  turns(seconds: number, fromMs: number, faster = 1) {
    const first = this.frame;
    while (this.frame < first + seconds * RATE) {
      const burst = Math.ceil((this.frame - first) / this.burstFrames) * this.burstFrames;
      this.turn(fromMs + (burst / RATE) * 1000 * faster);
    }
  }

  get gaps() {
    return this.said.filter((message) => message.kind === "gap");
  }

  /** Seconds said to be lost so far. */
  lostS() {
    return this.gaps.reduce((sum, gap) => sum + gap.frames, 0) / RATE;
  }
}

describe("the audio thread", () => {
  beforeEach(() => void vi.useFakeTimers());
  afterEach(() => {
    vi.useRealTimers();
    vi.unstubAllGlobals();
  });

  it("says nothing of bursts and of clocks that drift apart", async () => {
    const thread = new Thread();
    await thread.start();
    thread.turns(120, 5000, 1.0002);
    expect(thread.gaps).toEqual([]);
    expect(thread.said.length).toBeGreaterThan(2500);
  });

  it("says nothing of a card that asks for a fifth of a second at once", async () => {
    const thread = new Thread();
    await thread.start(8192);
    thread.turns(20, 5000);
    expect(thread.gaps).toEqual([]);
    thread.turns(2, 25_700);
    expect(thread.gaps.length).toBeGreaterThan(0);
  });

  it("says that it was held up longer than browsers keep what comes in", async () => {
    const thread = new Thread();
    await thread.start();
    thread.turns(2, 0);
    const at = thread.frame;
    thread.turns(2, 2300);
    expect(thread.gaps[0]?.frame).toBe(at);
    // Of the 300 ms the browser held 100; 23 are a card's that asks in bursts.
    expect(thread.lostS()).toBeCloseTo(0.18, 1);
    expect(thread.gaps.every((gap) => gap.frame < at + 2 * 1024)).toBe(true);
  });

  it("says each further delay once what browsers keep is full", async () => {
    const thread = new Thread();
    await thread.start();
    thread.turns(2, 0);
    thread.turns(2, 2300);
    const at = thread.frame;
    const before = thread.lostS();
    thread.turns(2, 4360);
    // Another 60 ms, less the drift of clocks that is allowed for in the 2 s before.
    expect(thread.lostS() - before).toBeGreaterThan(0.045);
    expect(thread.lostS() - before).toBeLessThan(0.065);
    expect(thread.gaps.filter((gap) => gap.frame >= at).length).toBeGreaterThan(0);
  });

  it("says nothing of short delays while what browsers keep is not full", async () => {
    const thread = new Thread();
    await thread.start();
    thread.turns(2, 0);
    thread.turns(2, 2040);
    thread.turns(2, 4080);
    expect(thread.gaps).toEqual([]);
  });

  it("says where the frames jump", async () => {
    const thread = new Thread();
    await thread.start();
    thread.turns(1, 0);
    const at = thread.frame;
    thread.frame += 512;
    thread.turns(1, 1000);
    expect(thread.gaps).toEqual([{ kind: "gap", frame: at, frames: 512 }]);
  });
});
