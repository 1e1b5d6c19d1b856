/** What becomes of a recording: it is safe in this browser first, then it may get lost on the way. */
import type { DrillDetail } from "~/api/client";
import { putIn, sendOne, type Waiting } from "~/lib/outbox";
import { putUnnamed } from "~/lib/unnamed";
import { bitsFor, wavFile } from "~/lib/wav.math";
import type { Ending, Recorded } from "./engine";
import type { Gap } from "./input.math";
import { latencyFor } from "./latencyStore";
import type { Card } from "./soundCard";

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
  gaps: Gap[];
  ending: Ending | "stopped";
}

type InputUsed = Pick<Card, "simulated" | "label" | "processing" | "latencyKey">;

/** Keeps a recording and tells how far it is; fails where the browser has no room for it. */
export type Keep = (
  recorded: Recorded,
  card: InputUsed,
  who: Who | null,
  ending: Kept["ending"],
  tell: (kept: Kept) => void,
) => Promise<void>;

/** As a take of a drill, sent at once. */
export function asTake(drill: DrillDetail, mostBytes: number, perClick: number | null = null): Keep {
  return async (recorded, card, who, ending, tell) => {
    if (!who) throw new Error("A take is somebody's.");
    const waiting: Waiting = {
      id: crypto.randomUUID(),
      studentId: who.studentId,
      drillId: drill.id,
      drillVersion: drill.version,
      guitarId: who.guitarId,
      perClick,
      ...(who.guest === undefined ? {} : { guest: who.guest }),
      playedAt: new Date().toISOString(),
      name: "take.wav",
      click: clickOf(drill, recorded, latencyFor(card.latencyKey)),
      capture: captureOf(recorded, card),
      sound: soundOf(recorded, mostBytes),
      refused: null,
    };
    await putIn(waiting);
    const made = keptOf(waiting.id, recorded, ending);
    tell(made);
    try {
      await sendOne(waiting);
      tell({ ...made, sent: true });
    } catch (error) {
      tell({ ...made, problem: error instanceof Error ? error.message : "It was not sent." });
    }
  };
}

/** In this browser, until somebody says what it is. */
export function asUnnamed(mostBytes: number): Keep {
  return async (recorded, card, _who, ending, tell) => {
    const made = keptOf(crypto.randomUUID(), recorded, ending);
    await putUnnamed({
      id: made.id,
      madeAt: new Date().toISOString(),
      seconds: made.seconds,
      capture: captureOf(recorded, card),
      sound: soundOf(recorded, mostBytes),
    });
    tell(made);
  };
}

/** How it was recorded, as the server keeps it with a take. */
function captureOf(recorded: Recorded, card: InputUsed): string {
  return JSON.stringify({
    simulated: card.simulated,
    device: card.label.slice(0, 200),
    sample_rate_hz: recorded.rateHz,
    processing: card.processing,
    gaps: recorded.gaps.slice(0, 200),
  });
}

function keptOf(id: string, recorded: Recorded, ending: Kept["ending"]): Kept {
  return {
    id,
    sent: false,
    problem: null,
    seconds: recorded.samples.length / recorded.rateHz,
    gaps: recorded.gaps,
    ending,
  };
}

function soundOf(recorded: Recorded, mostBytes: number): Blob {
  const { samples, rateHz } = recorded;
  return new Blob([wavFile(samples, rateHz, bitsFor(samples.length, mostBytes))], { type: "audio/wav" });
}

function clickOf(drill: DrillDetail, recorded: Recorded, latency: { ms: number } | null): string | null {
  const { tempo } = drill.content;
  if (!tempo || recorded.firstBeatS === null) return null;
  return JSON.stringify({
    format: "fortimetra-click",
    version: 1,
    source: "recorder",
    bpm: recorded.bpm ?? tempo.bpm,
    first_beat_s: recorded.firstBeatS,
    beats_per_bar: tempo.beats_per_bar,
    latency_ms: latency ? Math.max(0, latency.ms) : null,
    channel: null,
  });
}
