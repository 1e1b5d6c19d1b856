import { useCallback, useEffect, useRef, useState } from "react";
import type { DrillDetail } from "~/api/client";
import { putIn, sendOne, type Waiting } from "~/lib/outbox";
import { bitsFor, wavFile } from "~/lib/wav.math";
import type { ClickSettings } from "./clickPlan.math";
import { type Ending, Engine, type Recorded } from "./engine";
import type { InputSeen } from "./input.math";
import { keepLatency, latencyFor } from "./latencyStore";
import { InputRefused, openCard } from "./soundCard";

export type Stage = "closed" | "opening" | "check" | "calibrating" | "playing" | "keeping" | "kept";

export interface Who {
  studentId: number;
  guitarId: number | null;
  /** The secret of a guest's link. */
  guest?: string;
}

export interface Kept {
  id: string;
  /** On the server; until then it is safe in this browser. */
  sent: boolean;
  /** Why it was not sent. */
  problem: string | null;
  seconds: number;
  gaps: { at_s: number; seconds: number }[];
  ending: Ending | "stopped";
}

const NOT_CALIBRATED =
  "The probes did not come back alike. Turn the loudspeaker up, or hold a headphone to the microphone, keep still, and try again.";

/** One input and the takes made with it. */
export function useRecorder(drill: DrillDetail, mostBytes: number, perClick: number | null = null) {
  const engine = useRef<Engine | null>(null);
  const [stage, setStage] = useState<Stage>("closed");
  const [seen, setSeen] = useState<InputSeen | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [latency, setLatency] = useState<{ ms: number; spreadMs: number } | null>(null);
  const [kept, setKept] = useState<Kept | null>(null);
  const who = useRef<Who | null>(null);
  const stopping = useRef(false);

  const close = useCallback(() => {
    engine.current?.close();
    engine.current = null;
    setStage("closed");
    setSeen(null);
  }, []);
  useEffect(() => () => engine.current?.close(), []);

  const open = useCallback(
    async (deviceId: string | null, channel: number, bpm: number | null) => {
      close();
      setStage("opening");
      setTrouble(null);
      try {
        const card = await openCard(deviceId);
        const opened = await Engine.on(card);
        opened.channel = channel;
        engine.current = opened;
        let shown = 0;
        opened.onSeen = (now) => {
          // A dozen times a second is as fast as one reads.
          if (performance.now() - shown < 80) return;
          shown = performance.now();
          setSeen(now);
        };
        opened.onEnd = (why) => {
          if (why !== "gone") return;
          close();
          setTrouble("The input went away. Plug it in again, then open it again.");
        };
        setLatency(latencyFor(card.latencyKey));
        await card.prepare?.(drill.content, bpm);
        setStage("check");
      } catch (error) {
        setStage("closed");
        setTrouble(
          error instanceof InputRefused
            ? error.message
            : "The sound input could not be opened. Choose another input, or load the page again.",
        );
      }
    },
    [close, drill],
  );

  /** Another tempo: the simulated student has to learn it. */
  const prepare = useCallback(
    async (bpm: number | null) => {
      const running = engine.current;
      if (!running?.card.prepare) return;
      setStage("opening");
      await running.card.prepare(drill.content, bpm);
      setStage("check");
    },
    [drill],
  );

  const calibrate = useCallback(async () => {
    const running = engine.current;
    if (!running) return;
    setStage("calibrating");
    setTrouble(null);
    const found = await running.calibrate();
    if (found) {
      keepLatency(running.card.latencyKey, found);
      setLatency(found);
    } else setTrouble(NOT_CALIBRATED);
    setStage("check");
  }, []);

  const stop = useCallback(
    async (ending: Kept["ending"] = "stopped") => {
      const running = engine.current;
      if (!running || stopping.current) return;
      stopping.current = true;
      setStage("keeping");
      try {
        const recorded = await running.stop();
        if (recorded.samples.length === 0 || !who.current) {
          setTrouble("Nothing was recorded. Check the input, then try again.");
          setStage(ending === "gone" ? "closed" : "check");
          return;
        }
        const waiting = takeOf(
          drill,
          recorded,
          running,
          who.current,
          mostBytes,
          latencyFor(running.card.latencyKey),
          perClick,
        );
        if (ending === "gone") {
          running.close();
          engine.current = null;
          setSeen(null);
        }
        // Safe in the browser first; then it may get lost on the way.
        await putIn(waiting);
        const made: Kept = {
          id: waiting.id,
          sent: false,
          problem: null,
          seconds: recorded.samples.length / recorded.rateHz,
          gaps: recorded.gaps,
          ending,
        };
        setKept(made);
        setStage("kept");
        try {
          await sendOne(waiting);
          setKept({ ...made, sent: true });
        } catch (error) {
          setKept({ ...made, problem: error instanceof Error ? error.message : "It was not sent." });
        }
      } catch {
        setTrouble(
          "This take could not be kept: the browser has no room for it. Free some space, then record again.",
        );
        setStage("check");
      } finally {
        stopping.current = false;
      }
    },
    [drill, mostBytes, perClick],
  );

  const start = useCallback(
    (settings: ClickSettings, by: Who) => {
      const running = engine.current;
      if (!running) return;
      who.current = by;
      setKept(null);
      setTrouble(null);
      running.onEnd = (why) => void stop(why);
      running.record(drill.content, drill.length_beats, settings);
      setStage("playing");
    },
    [drill, stop],
  );

  const again = useCallback(() => {
    setKept(null);
    setStage(engine.current ? "check" : "closed");
  }, []);

  const beat = useCallback(() => engine.current?.beat() ?? null, []);
  return {
    stage,
    seen,
    trouble,
    latency,
    kept,
    card: engine.current?.card ?? null,
    open,
    close,
    calibrate,
    prepare,
    start,
    stop,
    again,
    beat,
  };
}

function takeOf(
  drill: DrillDetail,
  recorded: Recorded,
  engine: Engine,
  who: Who,
  mostBytes: number,
  latency: { ms: number } | null,
  perClick: number | null,
): Waiting {
  const { tempo } = drill.content;
  const click =
    tempo && recorded.firstBeatS !== null
      ? {
          format: "fortimetra-click",
          version: 1,
          source: "recorder",
          bpm: recorded.bpm ?? tempo.bpm,
          first_beat_s: recorded.firstBeatS,
          beats_per_bar: tempo.beats_per_bar,
          latency_ms: latency ? Math.max(0, latency.ms) : null,
          channel: null,
        }
      : null;
  const capture = {
    simulated: engine.card.simulated,
    device: engine.card.label.slice(0, 200),
    sample_rate_hz: recorded.rateHz,
    processing: engine.card.processing,
    gaps: recorded.gaps.slice(0, 200),
  };
  const sound = wavFile(recorded.samples, recorded.rateHz, bitsFor(recorded.samples.length, mostBytes));
  return {
    id: crypto.randomUUID(),
    studentId: who.studentId,
    drillId: drill.id,
    drillVersion: drill.version,
    guitarId: who.guitarId,
    perClick,
    ...(who.guest === undefined ? {} : { guest: who.guest }),
    playedAt: new Date().toISOString(),
    name: "take.wav",
    click: click && JSON.stringify(click),
    capture: JSON.stringify(capture),
    sound: new Blob([sound], { type: "audio/wav" }),
    refused: null,
  };
}
