/** Where sound comes from and clicks go to: a real input of this machine, or the simulated one that ships with the app. */
import type { DrillContent } from "~/api/client";
import { api, data, problemFrom } from "~/api/client";

export const SIMULATED = "simulated";
/** What the simulated card does to sound: its round trip, its noise, and how flat its student bends, repeat by repeat. */
export const SIMULATED_LATENCY_MS = 43.7;
export const SIMULATED_CENTS = [-19, -7, 4, -12];
const SIMULATED_NOISE = 10 ** (-72 / 20);
const SIMULATED_ROOM: [number, number][] = [
  [0.0071, 0.25],
  [0.0163, 0.12],
];
const SIMULATED_BLEED = 0.02;

export type Processing = "echo_cancellation" | "noise_suppression" | "auto_gain_control";

export interface Card {
  context: AudioContext;
  /** What is recorded. */
  input: AudioNode;
  /** Where clicks go. */
  output: AudioNode;
  label: string;
  /** No guitar, but the stand-in that ships with the app. */
  simulated: boolean;
  /** The device and browser a latency was measured for. */
  latencyKey: string;
  channels: number;
  /** What the browser would not switch off. */
  processing: Processing[];
  /** Called when the device goes away. */
  onGone: (act: () => void) => void;
  /** Simulated only: what the student will play, and when beat 0 of it is. */
  prepare?: (content: DrillContent, bpm: number | null) => Promise<void>;
  play?: (firstBeatAt: number, secondsPerBeat: number, lengthBeats: number) => void;
  hush?: () => void;
  close: () => void;
}

/** A sentence for each way an input can be refused. */
export class InputRefused extends Error {
  constructor(
    readonly code: "refused" | "none" | "busy" | "insecure",
    message: string,
  ) {
    super(message);
  }
}

export interface InputChoice {
  id: string;
  label: string;
}

/** Inputs as the browser names them; before permission they have no names. */
export async function inputs(): Promise<InputChoice[]> {
  const devices = navigator.mediaDevices ? await navigator.mediaDevices.enumerateDevices() : [];
  const real = devices
    .filter((device) => device.kind === "audioinput" && device.deviceId !== "")
    .map((device, i) => ({ id: device.deviceId, label: device.label || `Input ${i + 1}` }));
  return [...real, { id: SIMULATED, label: "Simulated sound card (invented sound)" }];
}

export async function openCard(deviceId: string | null): Promise<Card> {
  if (deviceId === SIMULATED) return simulatedCard();
  if (!navigator.mediaDevices?.getUserMedia)
    throw new InputRefused(
      "insecure",
      "The browser gives no microphone to this address. Open the page over https, or at 127.0.0.1 on this machine.",
    );
  const stream = await navigator.mediaDevices
    .getUserMedia({
      audio: {
        ...(deviceId ? { deviceId: { exact: deviceId } } : {}),
        echoCancellation: false,
        noiseSuppression: false,
        autoGainControl: false,
        channelCount: { ideal: 2 },
      },
    })
    .catch((error: DOMException) => {
      throw refusal(error);
    });
  const [track] = stream.getAudioTracks();
  if (!track) throw new InputRefused("none", "There is no sound input. Plug one in and try again.");
  const settings = track.getSettings();
  const context = new AudioContext({
    latencyHint: "playback",
    ...(settings.sampleRate ? { sampleRate: settings.sampleRate } : {}),
  });
  const input = new MediaStreamAudioSourceNode(context, { mediaStream: stream });
  const still: [Processing, boolean | string | undefined][] = [
    ["echo_cancellation", settings.echoCancellation],
    ["noise_suppression", settings.noiseSuppression],
    ["auto_gain_control", settings.autoGainControl],
  ];
  return {
    context,
    input,
    output: context.destination,
    label: track.label || "Input",
    simulated: false,
    latencyKey: [settings.deviceId, settings.groupId, context.sampleRate, navigator.userAgent].join("|"),
    channels: settings.channelCount ?? 1,
    processing: still.filter(([, on]) => on === true).map(([name]) => name),
    onGone: (act) => track.addEventListener("ended", act),
    close: () => {
      track.stop();
      void context.close();
    },
  };
}

function refusal(error: DOMException): InputRefused {
  switch (error.name) {
    case "NotAllowedError":
    case "SecurityError":
      return new InputRefused(
        "refused",
        "The browser was told not to let this page hear the microphone. Allow it beside the address, then try again.",
      );
    case "NotReadableError":
    case "AbortError":
      return new InputRefused(
        "busy",
        "Another program holds the sound input. Close it there, or choose another input.",
      );
    default:
      return new InputRefused("none", "There is no such sound input. Plug it in, or choose another one.");
  }
}

/**
 * A stand-in for guitar, interface and room: what is sent out comes back after a fixed time, softly and with echoes,
 * in noise; a simulated student plays the drill on the click.
 */
async function simulatedCard(): Promise<Card> {
  const context = new AudioContext({ latencyHint: "playback", sampleRate: 48_000 });
  const output = new GainNode(context);
  const input = new GainNode(context);
  const loud = new GainNode(context, { gain: SIMULATED_BLEED });
  const back = new DelayNode(context, { maxDelayTime: 1, delayTime: SIMULATED_LATENCY_MS / 1000 });
  output.connect(context.destination);
  output.connect(back).connect(loud).connect(input);
  for (const [seconds, share] of SIMULATED_ROOM) {
    const echo = new DelayNode(context, { maxDelayTime: 1, delayTime: seconds });
    loud
      .connect(echo)
      .connect(new GainNode(context, { gain: share }))
      .connect(input);
  }
  const noise = new AudioBufferSourceNode(context, { buffer: noiseBuffer(context), loop: true });
  noise.connect(input);
  noise.start();
  let repeats: { buffer: AudioBuffer; firstBeat: number }[] = [];
  let sounding: AudioBufferSourceNode[] = [];
  return {
    context,
    input,
    output,
    label: "Simulated sound card",
    simulated: true,
    latencyKey: "simulated|1",
    channels: 1,
    processing: [],
    onGone: () => {},
    prepare: async (content, bpm) => {
      repeats = await Promise.all(
        Array.from({ length: content.repeats }, (_, i) =>
          playedOnce(context, content, SIMULATED_CENTS[i % SIMULATED_CENTS.length] ?? 0, bpm),
        ),
      );
    },
    play: (firstBeatAt, secondsPerBeat, lengthBeats) => {
      sounding = repeats.map(({ buffer, firstBeat }, i) => {
        const source = new AudioBufferSourceNode(context, { buffer });
        source.connect(input);
        // The student hears the click late and is recorded late: both are the round trip.
        const at = firstBeatAt + i * lengthBeats * secondsPerBeat + SIMULATED_LATENCY_MS / 1000 - firstBeat;
        source.start(Math.max(context.currentTime, at), Math.max(0, context.currentTime - at));
        return source;
      });
    },
    hush: () => {
      for (const source of sounding) source.stop();
      sounding = [];
    },
    close: () => void context.close(),
  };
}

async function playedOnce(context: AudioContext, content: DrillContent, cents: number, bpm: number | null) {
  const shown = { cents, vibrato_cv: 0, late_ms: 0, slur_db: 0, ring_string: null, ring_db: -20 };
  const asked = await data(api.POST("/api/v1/drills/preview", { body: { content, shown, bpm } as never }));
  for (;;) {
    const answer = await fetch(`/api/v1/drills/preview/${asked.key}`);
    if (answer.status === 200) {
      const buffer = await context.decodeAudioData(await answer.arrayBuffer());
      return { buffer, firstBeat: asked.first_beat_s };
    }
    if (!answer.ok) throw problemFrom(answer.status, await answer.text());
    await new Promise((resolve) => window.setTimeout(resolve, 150));
  }
}

function noiseBuffer(context: AudioContext): AudioBuffer {
  const buffer = context.createBuffer(1, context.sampleRate * 3, context.sampleRate);
  const samples = buffer.getChannelData(0);
  for (let i = 0; i < samples.length; i += 1) samples[i] = (Math.random() * 2 - 1) * SIMULATED_NOISE;
  return buffer;
}
