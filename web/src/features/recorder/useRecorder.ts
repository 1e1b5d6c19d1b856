import { useCallback, useEffect, useRef, useState } from "react";
import type { DrillContent } from "~/api/client";
import type { ClickSettings } from "./clickPlan.math";
import { type Ending, Engine } from "./engine";
import type { InputSeen } from "./input.math";
import type { Keep, Kept, Who } from "./keepTake";
import { keepLatency, latencyFor } from "./latencyStore";
import { InputRefused, openCard } from "./soundCard";

export type Stage = "closed" | "opening" | "check" | "calibrating" | "playing" | "keeping" | "kept";

/** What is played to: a drill, or nothing in particular. */
export interface Played {
  /** Null: nothing in particular. */
  content: DrillContent | null;
  length_beats: number;
  /** Whether it goes on until somebody ends it, silence or not. */
  untilStopped?: boolean;
}

const NOT_CALIBRATED =
  "The probes did not come back alike. Turn the loudspeaker up, or hold a headphone to the microphone, keep still, and try again.";

/** One input and the takes made with it; keep: what becomes of a take. */
export function useRecorder(drill: Played, keep: Keep) {
  const keeps = useRef(keep);
  keeps.current = keep;
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
        if (drill.content) await card.prepare?.(drill.content, bpm);
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
      if (!running?.card.prepare || !drill.content) return;
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

  const stop = useCallback(async (ending: Ending | "stopped" = "stopped") => {
    const running = engine.current;
    if (!running || stopping.current) return;
    stopping.current = true;
    setStage("keeping");
    try {
      const recorded = await running.stop();
      if (recorded.samples.length === 0) {
        setTrouble("Nothing was recorded. Check the input, then try again.");
        setStage(ending === "gone" ? "closed" : "check");
        return;
      }
      const { card } = running;
      if (ending === "gone") {
        running.close();
        engine.current = null;
        setSeen(null);
      }
      await keeps.current(recorded, card, who.current, ending, (made) => {
        setKept(made);
        setStage("kept");
      });
    } catch {
      setTrouble(
        "This take could not be kept: the browser has no room for it. Free some space, then record again.",
      );
      setStage("check");
    } finally {
      stopping.current = false;
    }
  }, []);

  const start = useCallback(
    (settings: ClickSettings, by: Who | null) => {
      const running = engine.current;
      if (!running) return;
      who.current = by;
      setKept(null);
      setTrouble(null);
      running.onEnd = (why) => void stop(why);
      running.record(drill.content, drill.length_beats, settings, drill.untilStopped);
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
