import { useCallback, useEffect, useRef, useState } from "react";
import { isPlain, type Laid, laidOut, lengthOf, type Passage, putTogether, takeTime, tone } from "./passage";
import { wavFile } from "./wav.math";

export type { Passage } from "./passage";

export interface Player {
  /** The passage that sounds now, or null. */
  playing: Passage | null;
  play: (passage: Passage) => void;
  stop: () => void;
  /** Position in the take in seconds while it sounds; call per animation frame. */
  position: () => number | null;
  failed: boolean;
  /** Whether the take is there to be played. */
  ready: boolean;
}

const RATE_HZ = 48_000;
const LONGEST_TONE_S = 12;
const LONGEST_LOOP_S = 3600;
const BAND_WIDTH_HZ = 14;
const MOST_LIFT_DB = 30;
/** An output that has not moved after this long is none. */
const PATIENCE_MS = 1500;

/** What sounds: how to end it, and where in it we are. */
interface Sounding {
  end: () => void;
  heardS: () => number | null;
  laid: Laid[];
}

/** Plays passages of a take at any speed with its pitch kept, and target tones beside them. Owns all audio objects. */
export function usePlayer(sound: Blob | undefined): Player {
  const context = useRef<AudioContext | null>(null);
  const take = useRef<AudioBuffer | null>(null);
  const sounding = useRef<Sounding | null>(null);
  /** Which call of play counts: putting together takes a moment, in which another may be asked for. */
  const turn = useRef(0);
  const [playing, setPlaying] = useState<Passage | null>(null);
  const [failed, setFailed] = useState(false);
  const [ready, setReady] = useState(false);

  const stop = useCallback(() => {
    turn.current += 1;
    sounding.current?.end();
    sounding.current = null;
    setPlaying(null);
  }, []);

  useEffect(() => {
    take.current = null;
    setReady(false);
    setFailed(false);
    if (!sound) return undefined;
    let current = true;
    const decode = async () => {
      // A context of its own, because reading needs no output.
      const reader = new OfflineAudioContext(1, 1, RATE_HZ);
      const decoded = await reader.decodeAudioData(await sound.arrayBuffer());
      if (!current) return;
      take.current = decoded;
      context.current ??= new AudioContext({ sampleRate: RATE_HZ });
      setReady(true);
    };
    decode().catch(() => current && setFailed(true));
    return () => {
      current = false;
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
      const mine = turn.current;
      const asked = performance.now();
      context.current ??= new AudioContext({ sampleRate: RATE_HZ });
      const output = context.current;
      setFailed(false);
      setPlaying(passage);
      const done = () => {
        if (turn.current === mine) stop();
      };
      const begin = (next: Sounding) => {
        if (turn.current !== mine) {
          next.end();
          return;
        }
        sounding.current = next;
        performance.measure("key-to-sound", {
          start: asked,
          duration: performance.now() - asked + 1000 * (output.baseLatency + (output.outputLatency || 0)),
        });
      };
      const broken = () => {
        if (turn.current !== mine) return;
        stop();
        setFailed(true);
      };
      void output.resume();
      const before = output.currentTime;
      window.setTimeout(() => {
        if (output.currentTime === before) broken();
      }, PATIENCE_MS);
      const { current: buffer } = take;
      if (!passage.withTake || !buffer) {
        if (passage.toneHz === null) broken();
        else begin(toneAlone(output, passage, done));
      } else if (isPlain(passage)) {
        begin(asItLies(output, buffer, passage, done));
      } else {
        putTogether(buffer, passage)
          .then((made) => begin(asMade(output, made, passage, done, broken)))
          .catch(broken);
      }
    },
    [stop],
  );

  const position = useCallback(() => {
    const now = sounding.current;
    const heard = now?.heardS() ?? null;
    return now && heard !== null ? takeTime(now.laid, heard) : null;
  }, []);
  return { playing, play, stop, position, failed, ready };
}

function toneAlone(output: AudioContext, passage: Passage, done: () => void): Sounding {
  const seconds = Math.min(LONGEST_TONE_S, passage.to - passage.from);
  const end = tone(output, output.destination, passage.toneHz ?? 440, output.currentTime, seconds);
  const timer = window.setTimeout(done, 1000 * seconds);
  return {
    end: () => {
      window.clearTimeout(timer);
      end();
    },
    heardS: () => null,
    laid: [],
  };
}

/** Straight from the decoded take: nothing to wait for. */
function asItLies(output: AudioContext, buffer: AudioBuffer, passage: Passage, done: () => void): Sounding {
  const laid = laidOut(passage);
  const seconds = lengthOf(laid);
  const source = new AudioBufferSourceNode(output, {
    buffer,
    loop: passage.loop ?? false,
    loopStart: passage.from,
    loopEnd: passage.to,
  });
  const unfilter = through(output, source, passage);
  const startedAt = output.currentTime;
  source.start(0, Math.max(0, passage.from), passage.loop ? undefined : seconds);
  const toneS = passage.loop ? LONGEST_LOOP_S : Math.min(LONGEST_TONE_S, seconds);
  const endTone =
    passage.toneHz === null ? null : tone(output, output.destination, passage.toneHz, startedAt, toneS);
  source.onended = done;
  return {
    end: () => {
      source.onended = null;
      source.stop();
      unfilter();
      endTone?.();
    },
    heardS: () => heard(output, startedAt, seconds, passage.loop ?? false),
    laid,
  };
}

/** A sound put together: at full speed as samples, slower through the browser's player, which keeps the pitch. */
function asMade(
  output: AudioContext,
  made: AudioBuffer,
  passage: Passage,
  done: () => void,
  broken: () => void,
): Sounding {
  const laid = laidOut(passage);
  if (passage.rate === 1) {
    const source = new AudioBufferSourceNode(output, { buffer: made, loop: passage.loop ?? false });
    const unfilter = through(output, source, passage);
    const startedAt = output.currentTime;
    source.start();
    source.onended = done;
    return {
      end: () => {
        source.onended = null;
        source.stop();
        unfilter();
      },
      heardS: () => heard(output, startedAt, made.duration, passage.loop ?? false),
      laid,
    };
  }
  const url = URL.createObjectURL(
    new Blob([wavFile(made.getChannelData(0), made.sampleRate, 16)], { type: "audio/wav" }),
  );
  const element = new Audio(url);
  element.preservesPitch = true;
  element.playbackRate = passage.rate;
  element.loop = passage.loop ?? false;
  element.addEventListener("ended", done);
  const unfilter = through(output, output.createMediaElementSource(element), passage);
  let over = false;
  element.play().catch(() => {
    if (!over) broken();
  });
  return {
    end: () => {
      over = true;
      element.removeEventListener("ended", done);
      element.pause();
      unfilter();
      URL.revokeObjectURL(url);
    },
    heardS: () => (element.paused ? null : element.currentTime),
    laid,
  };
}

/** Seconds into a passage that are heard now. */
function heard(output: AudioContext, startedAt: number, seconds: number, loop: boolean): number | null {
  const since = output.currentTime - startedAt - (output.outputLatency || 0);
  if (since < 0) return null;
  return loop ? since % seconds : Math.min(seconds, since);
}

/** Connect a source to the output; where only a string is to be heard, through narrow bands, each steep by two filters in a row. */
function through(output: AudioContext, source: AudioNode, passage: Passage): () => void {
  if (!passage.bands) {
    source.connect(output.destination);
    return () => source.disconnect();
  }
  const lift = Math.min(MOST_LIFT_DB, Math.max(0, passage.liftDb ?? 0));
  const gain = new GainNode(output, { gain: 10 ** (lift / 20) });
  // What is turned up so far must not hurt where the estimate was wrong.
  const limiter = new DynamicsCompressorNode(output, { threshold: -12, ratio: 20, attack: 0.002 });
  for (const hz of passage.bands) {
    const filter = { type: "bandpass", frequency: hz, Q: hz / BAND_WIDTH_HZ } as const;
    source
      .connect(new BiquadFilterNode(output, filter))
      .connect(new BiquadFilterNode(output, filter))
      .connect(gain);
  }
  gain.connect(limiter).connect(output.destination);
  return () => {
    source.disconnect();
    limiter.disconnect();
  };
}
