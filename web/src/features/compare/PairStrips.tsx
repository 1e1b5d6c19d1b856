import { useMemo } from "react";
import type { Curves, TakeMeasured } from "~/api/client";
import { type Axis, beatLines, LEAD_PX, makeAxis } from "~/lib/axis.math";
import type { Player } from "~/lib/usePlayer";
import { useWidth } from "~/lib/useWidth";
import { Button } from "~/ui/Button";
import { LaneScale } from "~/ui/strips/LaneScale";
import { Lane } from "~/ui/strips/Lanes";
import { TabLine } from "~/ui/tab/TabLine";
import { layoutTab } from "~/ui/tab/tab.math";
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
}

/** One repeat of both takes on the same beats: each strip twice, the earlier take over the later. */
export function PairStrips({ sides, repeat }: PairStripsProps) {
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
        <div key={lane}>
          {sides.map((side, i) => {
            const { axis, lines, notes, tolerances, passage } = shown[i as 0 | 1];
            return (
              <div key={side.name} className="flex" data-lane={`${lane}/${i}`}>
                <div
                  className="relative shrink-0 border-t border-rule text-xs text-ink-soft"
                  style={{ width: NAMES_PX }}
                >
                  <div className="absolute top-1 left-0 z-10 grid justify-items-start gap-1">
                    <span>
                      <strong className="font-semibold text-ink">{NAMES[lane]}</strong>{" "}
                      {i === 0 ? "earlier" : "later"}
                    </span>
                    {lane === lanes[0] && passage && (
                      <Button
                        className="min-h-7 px-2"
                        disabled={!side.player.ready}
                        aria-pressed={side.player.playing !== null}
                        aria-label={`Play this repeat of the ${i === 0 ? "earlier" : "later"} take`}
                        onClick={() => {
                          if (side.player.playing) side.player.stop();
                          else {
                            sides[i === 0 ? 1 : 0].player.stop();
                            side.player.play({ ...passage, toneHz: null, withTake: true, rate: 1 });
                          }
                        }}
                      >
                        Play
                      </Button>
                    )}
                  </div>
                  <LaneScale name={lane} strings={tab.strings.map((s) => s.name)} />
                </div>
                <div className="overflow-hidden">
                  <Lane
                    name={lane}
                    axis={axis}
                    lines={lines}
                    curves={side.curves}
                    notes={notes}
                    tolerances={tolerances}
                    extras={side.measured.analysis.extras}
                    events={side.measured.analysis.noise_events}
                    selectedEvent={null}
                    strings={side.measured.drill.content.tuning.length}
                  />
                </div>
              </div>
            );
          })}
        </div>
      ))}
    </div>
  );
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
