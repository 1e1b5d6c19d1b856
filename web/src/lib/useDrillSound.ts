import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { api, type DrillContent, data, Problem, problemFrom } from "~/api/client";
import type { PreviewAsked, Shown } from "~/api/drills";
import { clickAt } from "./click";

/** The simulated student without a fault. */
export const CLEAN: Shown = {
  cents: 0,
  vibrato_cv: 0,
  late_ms: 0,
  slur_db: 0,
  ring_string: null,
  ring_db: -20,
};

export interface ToPlay {
  content: DrillContent;
  shown: Shown;
  bpm: number | null;
  click: boolean;
  perBar: number;
  fromBeat: number;
  loop: boolean;
}

export interface DrillSound {
  state: "still" | "preparing" | "playing";
  error: string | null;
  play: (asked: ToPlay) => void;
  stop: () => void;
  /** The beat that sounds now, or null; call once a frame. */
  beat: () => number | null;
}

interface Prepared {
  buffer: AudioBuffer;
  asked: PreviewAsked;
}

const ASK_EVERY_MS = 120;
const PATIENCE_MS = 30_000;
const MOST_KEPT = 8;
const AHEAD_S = 0.06;

/** Plays drills as the simulated student plays them. Owns its audio context. */
export function useDrillSound(): DrillSound {
  const context = useRef<AudioContext | null>(null);
  const kept = useRef(new Map<string, Prepared>());
  const sounding = useRef<{
    stop: () => void;
    startedAt: number;
    offset: number;
    asked: PreviewAsked;
  } | null>(null);
  const turn = useRef(0);
  const [state, setState] = useState<DrillSound["state"]>("still");
  const [error, setError] = useState<string | null>(null);

  const silence = useCallback(() => {
    turn.current += 1;
    sounding.current?.stop();
    sounding.current = null;
  }, []);

  const stop = useCallback(() => {
    silence();
    setState("still");
  }, [silence]);

  const play = useCallback(
    (toPlay: ToPlay) => {
      silence();
      const mine = turn.current;
      context.current ??= new AudioContext();
      const audio = context.current;
      void audio.resume();
      setError(null);
      setState("preparing");
      prepare(audio, kept.current, toPlay, () => turn.current === mine)
        .then((ready) => {
          if (!ready || turn.current !== mine) return;
          const begin = () => {
            sounding.current = start(audio, ready, toPlay, () => {
              if (turn.current !== mine) return;
              if (toPlay.loop) begin();
              else stop();
            });
          };
          begin();
          setState("playing");
        })
        .catch((problem: unknown) => {
          if (turn.current !== mine) return;
          setError(problem instanceof Problem ? problem.message : "This could not be played. Try again.");
          setState("still");
        });
    },
    [silence, stop],
  );

  const beat = useCallback(() => {
    const now = sounding.current;
    if (!now || !context.current) return null;
    const audible = context.current.currentTime - (context.current.outputLatency || 0);
    const position = now.offset + audible - now.startedAt;
    return (position - now.asked.first_beat_s) / now.asked.seconds_per_beat;
  }, []);

  useEffect(
    () => () => {
      silence();
      void context.current?.close();
      context.current = null;
    },
    [silence],
  );
  return useMemo(() => ({ state, error, play, stop, beat }), [state, error, play, stop, beat]);
}

async function prepare(
  audio: AudioContext,
  kept: Map<string, Prepared>,
  { content, shown, bpm }: ToPlay,
  wanted: () => boolean,
): Promise<Prepared | null> {
  const asked = await data(api.POST("/api/v1/drills/preview", { body: { content, shown, bpm } as never }));
  const known = kept.get(asked.key);
  if (known) return known;
  const sound = await rendered(asked.key, wanted);
  if (!sound) return null;
  const ready = { buffer: await audio.decodeAudioData(sound), asked };
  kept.set(asked.key, ready);
  for (const key of kept.keys()) if (kept.size > MOST_KEPT) kept.delete(key);
  return ready;
}

async function rendered(key: string, wanted: () => boolean): Promise<ArrayBuffer | null> {
  const began = performance.now();
  while (wanted()) {
    const answer = await fetch(`/api/v1/drills/preview/${key}`);
    if (answer.status === 200) return answer.arrayBuffer();
    if (!answer.ok) throw problemFrom(answer.status, await answer.text());
    if (performance.now() - began > PATIENCE_MS)
      throw new Problem(
        504,
        "preview_late",
        "The simulated student did not come to play. Try again in a moment.",
      );
    await new Promise((resolve) => window.setTimeout(resolve, ASK_EVERY_MS));
  }
  return null;
}

function start(audio: AudioContext, { buffer, asked }: Prepared, toPlay: ToPlay, ended: () => void) {
  const offset = toPlay.fromBeat > 0 ? asked.first_beat_s + toPlay.fromBeat * asked.seconds_per_beat : 0;
  const startedAt = audio.currentTime + AHEAD_S;
  const source = new AudioBufferSourceNode(audio, { buffer });
  source.connect(audio.destination);
  source.addEventListener("ended", ended);
  source.start(startedAt, offset);
  const clicks: OscillatorNode[] = [];
  if (toPlay.click) {
    for (let beat = Math.ceil(toPlay.fromBeat); beat < asked.length_beats; beat += 1) {
      const at = startedAt + asked.first_beat_s + beat * asked.seconds_per_beat - offset;
      clicks.push(clickAt(audio, audio.destination, at, beat % toPlay.perBar === 0));
    }
  }
  const stop = () => {
    source.removeEventListener("ended", ended);
    source.stop();
    for (const click of clicks) click.stop();
  };
  return { stop, startedAt, offset, asked };
}
