import { type CSSProperties, useMemo } from "react";
import type { Curves, TakeMeasured } from "~/api/client";
import { type Axis, beatLines, LEAD_PX, makeAxis, xOf } from "~/lib/axis.math";
import type { Player } from "~/lib/usePlayer";
import { useWidth } from "~/lib/useWidth";
import { Button } from "~/ui/Button";
import { LaneScale } from "~/ui/strips/LaneScale";
import { Lane } from "~/ui/strips/Lanes";
import { TabLine } from "~/ui/tab/TabLine";
import { layoutTab } from "~/ui/tab/tab.math";
import type { Comparison } from "~/ui/take/compare.math";
import { type SheetNote, sheetNotes, tolerancesOf } from "~/ui/take/notes.math";
import type { LaneName } from "~/ui/take/sheet.math";
import { lanesOf } from "~/ui/take/sheet.math";

const NAMES: Record<LaneName, string> = { tune: "Tune", time: "Time", touch: "Touch", quiet: "Quiet" };
const NAMES_PX = 120;
const MARGIN_BEATS = 0.15;

interface Side {
  name: string;
  measured: TakeMeasured;
  curves: Curves;
  player: Player;
}

export interface PairStripsProps {
  sides: readonly [Side, Side];
  repeat: number;
  pairs: Comparison["pairs"];
}

/** The tolerance is drawn once, behind both: drawn with the later take it would hide the earlier one inside it. */
const CORRIDOR = [
  { "--corridor": "var(--rule)" } as CSSProperties,
  { "--corridor": "transparent" } as CSSProperties,
] as const;

/** One repeat of both takes on the same beats, in one strip: the earlier pale behind the later, what differs shaded. */
export function PairStrips({ sides, repeat, pairs }: PairStripsProps) {
  const [frame, widthPx] = useWidth();
  const innerPx = Math.max(200, widthPx - NAMES_PX);
  const first = useSide(sides[0], repeat, innerPx);
  const second = useSide(sides[1], repeat, innerPx);
  const shown = [first, second] as const;
  const { drill } = sides[0].measured;
  const lanes = [...new Set(shown.flatMap((s) => s.lanes))];
  const tab = useMemo(() => {
    const pxPerBeat = (innerPx - 2 * LEAD_PX) / (drill.length_beats + 2 * MARGIN_BEATS);
    return layoutTab(
      drill.content,
      drill.length_beats,
      1,
      (beat) => LEAD_PX + (beat + MARGIN_BEATS) * pxPerBeat,
    );
  }, [drill, innerPx]);
  return (
    <div ref={frame} className="border-y border-ink" data-testid="pair-strips">
      <div className="flex">
        <div className="shrink-0" style={{ width: NAMES_PX }} />
        <TabLine layout={tab} widthPx={innerPx} lines={[]} />
      </div>
      {lanes.map((lane) => (
        <div key={lane} className="flex">
          <div
            className="relative shrink-0 border-t border-rule text-xs text-ink-soft"
            style={{ width: NAMES_PX }}
          >
            <strong className="absolute top-1 left-0 font-semibold text-ink">{NAMES[lane]}</strong>
            <LaneScale name={lane} strings={tab.strings.map((s) => s.name)} />
          </div>
          <div className="relative overflow-hidden">
            {sides.map((side, i) => {
              const { axis, lines, notes, tolerances } = shown[i as 0 | 1];
              return (
                <div
                  key={side.name}
                  className={i === 0 ? "opacity-40" : "absolute inset-0"}
                  style={CORRIDOR[i as 0 | 1]}
                  data-lane={`${lane}/${i}`}
                >
                  <Lane
                    name={lane}
                    axis={axis}
                    lines={i === 0 ? [] : lines}
                    curves={side.curves}
                    notes={notes}
                    tolerances={tolerances}
                    extras={side.measured.analysis.extras}
                    events={side.measured.analysis.noise_events}
                    selectedEvent={null}
                    strings={side.measured.drill.content.tuning.length}
                  />
                </div>
              );
            })}
            <Differences lane={lane} pairs={pairs} repeat={repeat} first={first} second={second} />
          </div>
        </div>
      ))}
      <div className="flex flex-wrap items-center gap-2 border-t border-rule py-2 text-sm">
        {sides.map((side, i) => {
          const { passage } = shown[i as 0 | 1];
          return (
            passage && (
              <Button
                key={side.name}
                disabled={!side.player.ready}
                aria-pressed={side.player.playing !== null}
                aria-label={`Play the ${i === 0 ? "earlier" : "later"} take, this repeat`}
                onClick={() => {
                  if (side.player.playing) side.player.stop();
                  else {
                    sides[i === 0 ? 1 : 0].player.stop();
                    side.player.play({ ...passage, toneHz: null, withTake: true, rate: 1 });
                  }
                }}
              >
                Play the {i === 0 ? "earlier" : "later"}
              </Button>
            )
          );
        })}
        <span className="text-xs text-ink-soft">
          pale: earlier; full: later; shaded: a note that differs by more than the uncertainty and a fifth of
          its tolerance
        </span>
      </div>
    </div>
  );
}

/** The value of each strip by which takes are compared. */
const CODES: Partial<Record<LaneName, readonly string[]>> = {
  tune: ["bend_error", "pitch_error", "vibrato_return"],
  time: ["onset_error"],
  touch: ["level_deviation"],
};

/** Columns over the notes whose value in this strip differs for sure. */
function Differences({
  lane,
  pairs,
  repeat,
  first,
  second,
}: {
  lane: LaneName;
  pairs: Comparison["pairs"];
  repeat: number;
  first: Shown;
  second: Shown;
}) {
  const codes = CODES[lane];
  if (!codes) return null;
  return pairs
    .filter((p) => p.repeat === repeat && p.differences.some((d) => d.clear && codes.includes(d.code)))
    .map((pair) => {
      const ends = [first, second].flatMap(({ notes, axis }) =>
        notes.flatMap(({ note }) =>
          note.id === pair.id && note.string === pair.string && note.onset_s !== null && note.end_s !== null
            ? [[xOf(axis, note.onset_s), xOf(axis, note.end_s)] as const]
            : [],
        ),
      );
      if (ends.length === 0) return null;
      const from = Math.min(...ends.map(([x]) => x));
      const to = Math.max(...ends.map(([, x]) => x));
      return (
        <div
          key={`${pair.id}/${pair.string}`}
          className="pointer-events-none absolute inset-y-0 bg-ink opacity-[0.06]"
          style={{ left: from, width: Math.max(3, to - from) }}
          data-testid="differs"
        />
      );
    });
}

interface Shown {
  axis: Axis;
  lines: ReturnType<typeof beatLines>;
  notes: SheetNote[];
  lanes: LaneName[];
  tolerances: ReturnType<typeof tolerancesOf>;
  passage: { from: number; to: number } | null;
}

/** One take's repeat on an axis as long as the repeat is there: a slow take and a fast one stand beat under beat. */
function useSide({ measured }: Side, repeat: number, innerPx: number): Shown {
  return useMemo(() => {
    const { drill, analysis } = measured;
    const all = sheetNotes(measured);
    const notes = all.filter((n) => n.note.repeat === repeat);
    const whole = makeAxis(analysis.take.duration_s, 1, analysis.reference.grid);
    const onsets = notes.flatMap(({ note }) => note.onset_s ?? []);
    const ends = notes.flatMap(({ note }) => note.end_s ?? []);
    const beatS = whole.grid?.secondsPerBeat ?? 1;
    const from = whole.grid
      ? whole.grid.firstBeatS + repeat * drill.length_beats * beatS
      : Math.min(...onsets, analysis.take.duration_s);
    const lengthS = whole.grid ? drill.length_beats * beatS : Math.max(0.5, Math.max(...ends, from) - from);
    const marginS = (MARGIN_BEATS * lengthS) / drill.length_beats;
    const pxPerSecond = (innerPx - 2 * LEAD_PX) / (lengthS + 2 * marginS);
    const axis: Axis = { ...whole, pxPerSecond, originPx: (from - marginS) * pxPerSecond, widthPx: innerPx };
    return {
      axis,
      lines: beatLines(
        axis,
        drill.content.repeats ?? 1,
        drill.length_beats,
        drill.content.tempo?.beats_per_bar ?? 4,
      ),
      notes,
      lanes: lanesOf(measured, all),
      tolerances: tolerancesOf(measured),
      passage: onsets.length ? { from: Math.max(0, from - 0.1), to: from + lengthS + 0.2 } : null,
    };
  }, [measured, repeat, innerPx]);
}
