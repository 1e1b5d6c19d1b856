import { useMemo } from "react";
import type { TakeMeasured } from "~/api/client";
import { type Axis, beatLines, LEAD_PX } from "~/lib/axis.math";
import { useWidth } from "~/lib/useWidth";
import { Lane, type LaneProps } from "~/ui/strips/Lanes";
import { TabLine } from "~/ui/tab/TabLine";
import { layoutTab } from "~/ui/tab/tab.math";
import type { SheetNote } from "~/ui/take/notes.math";
import { spanOf } from "~/ui/take/sheet.math";

const MARGIN_S = 0.15;
const NAMES_PX = 80;

export interface StackedProps extends Omit<LaneProps, "axis" | "lines"> {
  measured: TakeMeasured;
  whole: Axis;
  selected: SheetNote | null;
  onSelect: (key: string) => void;
}

/** Every repeat under the one before, on the beats of one repeat: what changes from time to time stands one above the other. */
export function Stacked({ measured, whole, selected, onSelect, ...lane }: StackedProps) {
  const [frame, widthPx] = useWidth();
  const { drill } = measured;
  const rows = useMemo(() => repeatsOf(lane.notes, drill.length_beats, whole), [lane.notes, drill, whole]);
  const longest = Math.max(...rows.map((r) => r.to - r.from), 0.5) + 2 * MARGIN_S;
  const innerPx = widthPx - NAMES_PX;
  const pxPerSecond = (innerPx - 2 * LEAD_PX) / longest;
  const beats = drill.content.tempo?.beats_per_bar ?? 4;
  const tab = useMemo(() => {
    if (!whole.grid) return null;
    const { secondsPerBeat } = whole.grid;
    const x = (beat: number) => LEAD_PX + (beat * secondsPerBeat + MARGIN_S) * pxPerSecond;
    return layoutTab(drill.content, drill.length_beats, 1, x);
  }, [drill, whole, pxPerSecond]);
  return (
    <div ref={frame} data-testid="stacked">
      {tab && (
        <div className="ml-20">
          <TabLine layout={tab} widthPx={innerPx} lines={[]} />
        </div>
      )}
      {rows.map((row) => {
        const axis: Axis = {
          ...whole,
          pxPerSecond,
          originPx: (row.from - MARGIN_S) * pxPerSecond,
          widthPx: innerPx,
        };
        const lines = beatLines(axis, drill.content.repeats ?? 1, drill.length_beats, beats);
        return (
          <div
            key={row.repeat}
            className="flex [contain-intrinsic-size:auto_150px] [content-visibility:auto]"
            data-repeat={row.repeat}
          >
            <span className="w-20 shrink-0 border-t border-rule pt-1 text-xs text-ink-soft">
              repeat {row.repeat + 1}
            </span>
            {/* biome-ignore lint/a11y/noStaticElementInteractions: the table and the arrow keys are the keyboard's way */}
            {/* biome-ignore lint/a11y/useKeyWithClickEvents: as above */}
            <div
              className="relative cursor-pointer overflow-hidden"
              onClick={(event) => {
                const x = event.clientX - event.currentTarget.getBoundingClientRect().left;
                const at = (x + axis.originPx - LEAD_PX) / axis.pxPerSecond;
                const hit = nearestOf(row.notes, at);
                if (hit) onSelect(hit.key);
              }}
            >
              {selected?.note.repeat === row.repeat && (
                <Here span={spanOf(selected, drill.length_beats, whole)} axis={axis} />
              )}
              <Lane {...lane} notes={row.notes} axis={axis} lines={lines} />
            </div>
          </div>
        );
      })}
    </div>
  );
}

function Here({ span, axis }: { span: readonly [number, number] | null; axis: Axis }) {
  if (!span) return null;
  const left = LEAD_PX + span[0] * axis.pxPerSecond - axis.originPx;
  return (
    <div
      className="pointer-events-none absolute inset-y-0 border-x border-ink bg-corridor/60"
      style={{ left, width: Math.max(2, (span[1] - span[0]) * axis.pxPerSecond) }}
    />
  );
}

function nearestOf(notes: readonly SheetNote[], seconds: number): SheetNote | undefined {
  return [...notes].sort(
    (a, b) => Math.abs((a.note.onset_s ?? 1e9) - seconds) - Math.abs((b.note.onset_s ?? 1e9) - seconds),
  )[0];
}

interface Row {
  repeat: number;
  from: number;
  to: number;
  notes: SheetNote[];
}

/** Each repeat with where it begins: on its beat, or, without a grid, with its first note. */
function repeatsOf(notes: readonly SheetNote[], lengthBeats: number, axis: Axis): Row[] {
  const byRepeat = new Map<number, SheetNote[]>();
  for (const note of notes) {
    const own = byRepeat.get(note.note.repeat);
    if (own) own.push(note);
    else byRepeat.set(note.note.repeat, [note]);
  }
  const rows: Row[] = [];
  for (const [repeat, own] of byRepeat) {
    const onsets = own.flatMap(({ note }) => note.onset_s ?? []);
    const ends = own.flatMap(({ note }) => note.end_s ?? []);
    if (axis.grid) {
      const from = axis.grid.firstBeatS + repeat * lengthBeats * axis.grid.secondsPerBeat;
      rows.push({ repeat, from, to: from + lengthBeats * axis.grid.secondsPerBeat, notes: own });
    } else if (onsets.length) {
      rows.push({ repeat, from: Math.min(...onsets), to: Math.max(...ends), notes: own });
    }
  }
  return rows;
}
