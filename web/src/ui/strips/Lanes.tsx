import type { Curves, NoiseEvent, TakeMeasured } from "~/api/client";
import { type Axis, type BeatLine, secondsAt } from "~/lib/axis.math";
import { errorCents, markOf, type SheetNote, type Tolerances } from "~/ui/take/notes.math";
import { type LaneName, notesWithin } from "~/ui/take/sheet.math";
import { DenseStrip, type Stroke } from "./Dense";
import { QuietStrip } from "./QuietStrip";
import { TIME_HEIGHT, TimeStrip, yOfMs } from "./TimeStrip";
import { TOUCH_HEIGHT, TouchStrip, yOfDb } from "./TouchStrip";
import { TuneStrip } from "./TuneStrip";
import { type Tune, useTune } from "./tuneHeight";

/** Notes closer than this are drawn as strokes: there is no room for more. */
const LEAST_PX_A_NOTE = 11;
/** What is written beside a note reaches so far. */
const REACH_PX = 60;

export interface LaneProps {
  name: LaneName;
  axis: Axis;
  lines: BeatLine[];
  curves: Curves;
  notes: readonly SheetNote[];
  tolerances: Tolerances;
  extras: TakeMeasured["analysis"]["extras"];
  events: readonly NoiseEvent[];
  selectedEvent: NoiseEvent | null;
  strings: number;
}

/** One strip over a stretch of the take. */
export function Lane({
  name,
  axis,
  lines,
  curves,
  notes,
  tolerances,
  extras,
  events,
  selectedEvent,
  strings,
}: LaneProps) {
  const tune = useTune();
  const from = secondsAt(axis, -REACH_PX);
  const to = secondsAt(axis, axis.widthPx + REACH_PX);
  if (name === "quiet") {
    const rung = events.filter((e) => e.from_s <= to && e.to_s >= from);
    return <QuietStrip axis={axis} lines={lines} events={rung} strings={strings} selected={selectedEvent} />;
  }
  const shown = notesWithin(notes, from, to);
  if (shown.length * LEAST_PX_A_NOTE > axis.widthPx + 2 * REACH_PX) {
    const far = name === "tune" ? farTune(tune) : FAR[name];
    return (
      <DenseStrip
        axis={axis}
        lines={lines}
        height={far.height}
        zeroY={far.zeroY}
        notes={shown}
        strokeOf={far.strokeOf}
        testid={`${name}-strip`}
      />
    );
  }
  if (name === "time") {
    const near = extras.filter((e) => e.onset_s >= from && e.onset_s <= to);
    return <TimeStrip axis={axis} lines={lines} notes={shown} extras={near} />;
  }
  if (name === "touch") return <TouchStrip axis={axis} lines={lines} notes={shown} />;
  return <TuneStrip axis={axis} lines={lines} curves={curves} notes={shown} tolerances={tolerances} />;
}

function says(verdict: string | undefined, value: number): Stroke["says"] {
  if (verdict === "outside") return value < 0 ? "under" : "over";
  return verdict === "unclear" ? "unclear" : "ink";
}

interface Far {
  height: number;
  zeroY: number;
  strokeOf: (note: SheetNote) => Stroke | null;
}

function farTune({ heightPx, y }: Tune): Far {
  return {
    height: heightPx,
    zeroY: y(0),
    strokeOf: ({ note }) => {
      const error = errorCents(note);
      if (error === null) return null;
      const mark = markOf(note);
      const told = mark === "under" || mark === "over" || mark === "unclear" ? mark : "ink";
      return { y0: y(0), y1: y(error), says: told };
    },
  };
}

/** The other strips from far away. */
const FAR: Record<"time" | "touch", Far> = {
  time: {
    height: TIME_HEIGHT,
    zeroY: yOfMs(0),
    strokeOf: ({ note: { timing } }) =>
      timing?.error_ms == null
        ? null
        : { y0: yOfMs(0), y1: yOfMs(timing.error_ms), says: says(timing.verdict, timing.error_ms) },
  },
  touch: {
    height: TOUCH_HEIGHT,
    zeroY: yOfDb(0),
    strokeOf: ({ note: { level } }) =>
      level?.level_db == null
        ? null
        : { y0: yOfDb(0), y1: yOfDb(level.level_db), says: says(level.verdict, level.deviation_db ?? -1) },
  },
};
