import { useCallback, useEffect, useRef, useState } from "react";

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
}

export interface Player {
  /** The passage that sounds now, or null. */
  playing: Passage | null;
  play: (passage: Passage) => void;
  stop: () => void;
  /** Position in the take in seconds while it sounds; call per animation frame. */
  position: () => number | null;
  failed: boolean;
}

const TONE_PARTIALS = [0, 1, 0.5, 0.33, 0.2, 0.12];
const TONE_LEVEL = 0.16;
const FADE_S = 0.015;
const LONGEST_TONE_S = 12;
const BAND_WIDTH_HZ = 14;
const MOST_LIFT_DB = 30;

/** Plays passages of a take at any speed with its pitch kept, and target tones beside them. Owns all audio objects. */
export function usePlayer(sound: Blob | undefined): Player {
  const element = useRef<HTMLAudioElement | null>(null);
  const context = useRef<AudioContext | null>(null);
  const stopTone = useRef<(() => void) | null>(null);
  const unfilter = useRef<(() => void) | null>(null);
  const source = useRef<MediaElementAudioSourceNode | null>(null);
  const timer = useRef<number | undefined>(undefined);
  const frame = useRef(0);
  const [playing, setPlaying] = useState<Passage | null>(null);
  const [failed, setFailed] = useState(false);

  const stop = useCallback(() => {
    cancelAnimationFrame(frame.current);
    window.clearTimeout(timer.current);
    element.current?.pause();
    stopTone.current?.();
    stopTone.current = null;
    unfilter.current?.();
    unfilter.current = null;
    setPlaying(null);
  }, []);

  useEffect(() => {
    if (!sound) return;
    const url = URL.createObjectURL(sound);
    const audio = new Audio(url);
    audio.preload = "auto";
    audio.addEventListener("error", () => setFailed(true));
    element.current = audio;
    setFailed(false);
    return () => {
      audio.pause();
      audio.removeAttribute("src");
      element.current = null;
      source.current = null;
      URL.revokeObjectURL(url);
    };
  }, [sound]);

  useEffect(
    () => () => {
      stop();
      void context.current?.close();
      context.current = null;
    },
    [stop],
  );

  const play = useCallback(
    (passage: Passage) => {
      stop();
      const audio = element.current;
      const seconds = (passage.to - passage.from) / passage.rate;
      if (passage.toneHz !== null) {
        context.current ??= new AudioContext();
        stopTone.current = startTone(context.current, passage.toneHz, Math.min(LONGEST_TONE_S, seconds));
      }
      if (passage.bands && audio) {
        context.current ??= new AudioContext();
        source.current ??= context.current.createMediaElementSource(audio);
        unfilter.current = letThrough(context.current, source.current, passage.bands, passage.liftDb ?? 0);
      } else if (source.current && context.current) {
        // An element once taken into the graph is heard only through it.
        const { current: node } = source;
        void context.current.resume();
        node.connect(context.current.destination);
        unfilter.current = () => node.disconnect();
      }
      if (passage.withTake && audio) {
        audio.currentTime = passage.from;
        audio.preservesPitch = true;
        audio.playbackRate = passage.rate;
        audio.play().catch(() => {
          setFailed(true);
          stop();
        });
        const watch = () => {
          if (audio.ended || audio.currentTime >= passage.to) stop();
          else frame.current = requestAnimationFrame(watch);
        };
        frame.current = requestAnimationFrame(watch);
        // A page in the background gets no animation frames.
        timer.current = window.setTimeout(stop, seconds * 1000 + 1500);
      } else {
        timer.current = window.setTimeout(stop, seconds * 1000);
      }
      setPlaying(passage);
    },
    [stop],
  );

  const position = useCallback(
    () => (element.current && !element.current.paused ? element.current.currentTime : null),
    [],
  );
  return { playing, play, stop, position, failed };
}

/** Connect a source through narrow bands, each steep by two filters in a row, and turn up what is left. */
function letThrough(
  context: AudioContext,
  source: AudioNode,
  bands: readonly number[],
  liftDb: number,
): () => void {
  void context.resume();
  const gain = new GainNode(context, { gain: 10 ** (Math.min(MOST_LIFT_DB, Math.max(0, liftDb)) / 20) });
  // What is turned up so far must not hurt where the estimate was wrong.
  const limiter = new DynamicsCompressorNode(context, { threshold: -12, ratio: 20, attack: 0.002 });
  for (const hz of bands) {
    const filter = { type: "bandpass", frequency: hz, Q: hz / BAND_WIDTH_HZ } as const;
    source
      .connect(new BiquadFilterNode(context, filter))
      .connect(new BiquadFilterNode(context, filter))
      .connect(gain);
  }
  gain.connect(limiter).connect(context.destination);
  return () => {
    source.disconnect();
    limiter.disconnect();
  };
}

function startTone(context: AudioContext, hz: number, seconds: number): () => void {
  void context.resume();
  const wave = context.createPeriodicWave(
    new Float32Array(TONE_PARTIALS.length),
    new Float32Array(TONE_PARTIALS),
  );
  const oscillator = new OscillatorNode(context, { type: "custom", periodicWave: wave, frequency: hz });
  const gain = new GainNode(context, { gain: 0 });
  oscillator.connect(gain).connect(context.destination);
  const now = context.currentTime;
  gain.gain.setValueAtTime(0, now);
  gain.gain.linearRampToValueAtTime(TONE_LEVEL, now + FADE_S);
  gain.gain.setValueAtTime(TONE_LEVEL, now + Math.max(FADE_S, seconds - FADE_S));
  gain.gain.linearRampToValueAtTime(0, now + Math.max(2 * FADE_S, seconds));
  oscillator.start(now);
  oscillator.stop(now + seconds + 0.05);
  return () => {
    gain.gain.cancelScheduledValues(context.currentTime);
    gain.gain.setTargetAtTime(0, context.currentTime, FADE_S / 3);
    oscillator.stop(context.currentTime + 0.05);
  };
}
