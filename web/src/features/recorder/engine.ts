/** Records a take: click out, sound in, on one clock. No interface code; the page follows its events. */
import type { DrillContent } from "~/api/client";
import { clickAt } from "~/lib/click";
import captureUrl from "./capture.worklet.js?url";
import { type ClickPlan, type ClickSettings, planClicks } from "./clickPlan.math";
import { type Gap, type InputSeen, InputWatch, lostIn, merged } from "./input.math";
import { calibrationSeconds, type Latency, latencyOf, probe, probeTimes } from "./latency.math";
import type { Card } from "./soundCard";

const BLOCK = 2048;
const LEAD_S = 0.35;
const TAIL_S = 1.2;
const KEPT_BEFORE_S = 0.25;
const AHEAD_S = 1.5;
const LOOK_EVERY_MS = 250;
const LONGEST_S = 14 * 60;
const SILENT_FOR_S = 4;
const SOUNDING_OVER_FLOOR_DB = 15;
const FLUSH_PATIENCE_MS = 800;

interface Block {
  frame: number;
  channels: Float32Array[];
}

export interface Recorded {
  samples: Float32Array;
  rateHz: number;
  /** Seconds in the samples at which beat 0 of the first repeat was scheduled; null in free time. */
  firstBeatS: number | null;
  bpm: number | null;
  gaps: Gap[];
}

export type Ending = "end" | "silence" | "gone" | "longest";

/** One input, open for as long as the page needs it. */
export class Engine {
  onSeen: (seen: InputSeen) => void = () => {};
  onEnd: (why: Ending) => void = () => {};

  private readonly watch: InputWatch;
  private blocks: Block[] = [];
  private keeping = false;
  private keptFrom = 0;
  private lost: { frame: number; frames: number }[] = [];
  private timers: number[] = [];
  private clicks: OscillatorNode[] = [];
  private beatZeroAt: number | null = null;
  private secondsPerBeat = 1;
  private flushed: (() => void) | null = null;
  private soundedAt: number | null = null;
  channel = 0;

  private constructor(
    readonly card: Card,
    private readonly node: AudioWorkletNode,
    private readonly clickGain: GainNode,
  ) {
    this.watch = new InputWatch(card.context.sampleRate, BLOCK);
    node.port.onmessage = ({ data }) => this.hear(data);
    card.onGone(() => this.onEnd("gone"));
  }

  static async on(card: Card): Promise<Engine> {
    await card.context.audioWorklet.addModule(captureUrl);
    await card.context.resume();
    const node = new AudioWorkletNode(card.context, "fortimetra-capture", {
      numberOfOutputs: 0,
      processorOptions: { burstS: card.context.baseLatency || 0 },
    });
    card.input.connect(node);
    const gain = new GainNode(card.context);
    gain.connect(card.output);
    return new Engine(card, node, gain);
  }

  private hear(message: { kind: string; frame: number; frames: number; channels: Float32Array[] }) {
    if (message.kind === "flushed") this.flushed?.();
    else if (message.kind === "gap" && this.keeping)
      this.lost.push({ frame: message.frame, frames: message.frames });
    else if (message.kind === "block") {
      if (this.keeping) this.blocks.push({ frame: message.frame, channels: message.channels });
      const seen = this.watch.see(message.channels[this.channel] ?? (message.channels[0] as Float32Array));
      if (seen.floorDbfs !== null && seen.rmsDbfs > seen.floorDbfs + SOUNDING_OVER_FLOOR_DB)
        this.soundedAt = this.card.context.currentTime;
      this.onSeen(seen);
    }
  }

  /** Plays the probes and listens for them; null where they do not come back alike. */
  async calibrate(): Promise<Latency | null> {
    const { context } = this.card;
    this.begin();
    const start = context.currentTime + LEAD_S;
    const sent = probe(context.sampleRate);
    const buffer = context.createBuffer(1, sent.length, context.sampleRate);
    buffer.copyToChannel(Float32Array.from(sent), 0);
    for (const at of probeTimes()) {
      const source = new AudioBufferSourceNode(context, { buffer });
      source.connect(this.card.output);
      // On whole samples, so that no interpolation blurs what is sent.
      source.start(Math.round((start + at) * context.sampleRate) / context.sampleRate);
    }
    await new Promise((resolve) => window.setTimeout(resolve, (LEAD_S + calibrationSeconds()) * 1000));
    const { samples, startFrame } = await this.finish();
    const zero = startFrame / context.sampleRate;
    const sentAt = probeTimes().map(
      (at) => Math.round((start + at) * context.sampleRate) / context.sampleRate - zero,
    );
    return latencyOf(samples, context.sampleRate, sentAt);
  }

  /**
   * Begin with the count-in. Ends by itself after the last repeat; in free time when it has been silent for a while,
   * unless it is to go on until it is stopped.
   */
  record(
    content: DrillContent | null,
    lengthBeats: number,
    settings: ClickSettings,
    untilStopped = false,
  ): void {
    const { context } = this.card;
    const plan = untilStopped || !content ? null : planClicks(content, lengthBeats, settings);
    const start = context.currentTime + LEAD_S;
    this.begin();
    this.soundedAt = null;
    this.beatZeroAt = plan ? start + plan.firstBeat : null;
    this.clickGain.gain.value = settings.levelDb <= -100 ? 0 : 10 ** (settings.levelDb / 20) * 2;
    if (plan) this.scheduleClicks(plan, start);
    this.secondsPerBeat = plan?.secondsPerBeat ?? 1;
    this.card.play?.(this.beatZeroAt ?? start + 1, this.secondsPerBeat, lengthBeats);
    const watchEnd = () => {
      const now = context.currentTime;
      if (plan && now > start + plan.end + TAIL_S) this.onEnd("end");
      else if (!plan && !untilStopped && this.soundedAt !== null && now > this.soundedAt + SILENT_FOR_S)
        this.onEnd("silence");
      else if (now > start + LONGEST_S) this.onEnd("longest");
    };
    this.timers.push(window.setInterval(watchEnd, 100));
  }

  private scheduleClicks(plan: ClickPlan, start: number) {
    let next = 0;
    const schedule = () => {
      const until = this.card.context.currentTime + AHEAD_S;
      for (; next < plan.clicks.length; next += 1) {
        const click = plan.clicks[next];
        if (!click || start + click.at > until) break;
        if (!click.silent && click.kind !== "between")
          this.clicks.push(
            clickAt(this.card.context, this.clickGain, start + click.at, click.kind === "accent"),
          );
        else if (!click.silent)
          this.clicks.push(clickAt(this.card.context, this.clickGain, start + click.at, false));
      }
    };
    schedule();
    this.timers.push(window.setInterval(schedule, LOOK_EVERY_MS));
  }

  /** The beat that is heard now, or null. */
  beat(): number | null {
    if (this.beatZeroAt === null) return null;
    const heard = this.card.context.currentTime - (this.card.context.outputLatency || 0);
    return (heard - this.beatZeroAt) / this.secondsPerBeat;
  }

  /** Stop and take what was recorded. */
  async stop(): Promise<Recorded> {
    const zero = this.beatZeroAt;
    const { samples, startFrame, gaps } = await this.finish();
    const rate = this.card.context.sampleRate;
    return {
      samples,
      rateHz: rate,
      bpm: zero === null ? null : 60 / this.secondsPerBeat,
      firstBeatS: zero === null ? null : Math.max(0, zero - startFrame / rate),
      gaps: merged([...gaps, ...lostIn(samples, rate)]),
    };
  }

  private begin() {
    this.blocks = [];
    this.lost = [];
    this.keeping = true;
    this.keptFrom = Math.floor(
      (this.card.context.currentTime + LEAD_S - KEPT_BEFORE_S) * this.card.context.sampleRate,
    );
  }

  private async finish() {
    for (const timer of this.timers) window.clearInterval(timer);
    this.timers = [];
    const now = this.card.context.currentTime;
    for (const click of this.clicks) click.stop(now);
    this.clicks = [];
    this.card.hush?.();
    this.beatZeroAt = null;
    await new Promise<void>((resolve) => {
      this.flushed = resolve;
      this.node.port.postMessage("flush");
      // A context that was suspended answers no more; what came before is there.
      window.setTimeout(resolve, FLUSH_PATIENCE_MS);
    });
    this.keeping = false;
    return joined(this.blocks, this.lost, this.channel, this.keptFrom, this.card.context.sampleRate);
  }

  close() {
    for (const timer of this.timers) window.clearInterval(timer);
    this.node.port.postMessage("end");
    this.node.disconnect();
    this.card.close();
  }
}

/** Blocks as one sound from a frame on; what is missing between them is silence, and is said. */
export function joined(
  blocks: readonly Block[],
  lost: readonly { frame: number; frames: number }[],
  channel: number,
  from: number,
  rateHz: number,
): { samples: Float32Array; startFrame: number; gaps: Gap[] } {
  const used = blocks.filter((block) => block.frame + (block.channels[0]?.length ?? 0) > from);
  const [first] = used;
  const last = used.at(-1);
  if (!first || !last) return { samples: new Float32Array(0), startFrame: from, gaps: [] };
  const startFrame = Math.max(from, first.frame);
  const end = last.frame + (last.channels[0]?.length ?? 0);
  const samples = new Float32Array(end - startFrame);
  for (const block of used) {
    const sound = block.channels[channel] ?? (block.channels[0] as Float32Array);
    const skip = Math.max(0, startFrame - block.frame);
    samples.set(sound.subarray(skip), block.frame + skip - startFrame);
  }
  const gaps = lost
    .filter((gap) => gap.frame >= startFrame)
    .map((gap) => ({ at_s: (gap.frame - startFrame) / rateHz, seconds: gap.frames / rateHz }));
  return { samples, startFrame, gaps };
}
