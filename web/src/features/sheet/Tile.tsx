import { memo, useMemo } from "react";
import type { Curves, NoiseEvent, TakeMeasured } from "~/api/client";
import { type Axis, beatLines, stretchOf } from "~/lib/axis.math";
import { Lane } from "~/ui/strips/Lanes";
import { Waveform } from "~/ui/strips/Waveform";
import { TabLine } from "~/ui/tab/TabLine";
import type { TabMark } from "~/ui/tab/TabNumber";
import { layoutWithin, type TabLayout } from "~/ui/tab/tab.math";
import type { SheetNote, Tolerances } from "~/ui/take/notes.math";
import type { LaneName } from "~/ui/take/sheet.math";

/** A stretch is drawn once and stays as it is while it is scrolled through. */
export const TILE_PX = 480;
const TAB_REACH_PX = 120;
/** Closer together than this the tab's numbers would lie over each other. */
const LEAST_TAB_PX = 7;

export interface TileProps {
  index: number;
  axis: Axis;
  measured: TakeMeasured;
  curves: Curves;
  notes: readonly SheetNote[];
  tolerances: Tolerances;
  tab: TabLayout;
  lanes: readonly LaneName[];
  markOf: (id: string, repeat: number) => TabMark;
  onSelectNumber: (id: string, repeat: number) => void;
  /** Given only to the tile it is in, so that the others stay as they are. */
  selectedId: string | null;
  selectedRepeat: number;
  selectedEvent: NoiseEvent | null;
}

/** One stretch of all strips. */
export const Tile = memo(function Tile({
  index,
  axis,
  measured,
  curves,
  notes,
  tolerances,
  tab,
  lanes,
  markOf,
  onSelectNumber,
  selectedId,
  selectedRepeat,
  selectedEvent,
}: TileProps) {
  const { drill, analysis } = measured;
  const stretch = useMemo(() => stretchOf(axis, index * TILE_PX, TILE_PX), [axis, index]);
  const lines = useMemo(
    () =>
      beatLines(
        stretch,
        drill.content.repeats ?? 1,
        drill.length_beats,
        drill.content.tempo?.beats_per_bar ?? 4,
        TAB_REACH_PX,
      ),
    [stretch, drill],
  );
  const shownTab = useMemo(() => tabInSight(tab, stretch.originPx, stretch.widthPx), [tab, stretch]);
  const selected = useMemo(
    () => (selectedId === null ? null : { id: selectedId, repeat: selectedRepeat }),
    [selectedId, selectedRepeat],
  );
  return (
    <div
      className="absolute top-0 overflow-hidden contain-strict"
      style={{ left: stretch.originPx, width: stretch.widthPx, height: "100%" }}
      data-tile={index}
    >
      <TabLine
        layout={shownTab}
        originPx={stretch.originPx}
        widthPx={stretch.widthPx}
        lines={axis.grid ? lines : []}
        selected={selected}
        markOf={markOf}
        onSelect={onSelectNumber}
      />
      {lanes.map((lane) => (
        <Lane
          key={lane}
          name={lane}
          axis={stretch}
          lines={lines}
          curves={curves}
          notes={notes}
          tolerances={tolerances}
          extras={analysis.extras}
          events={analysis.noise_events}
          selectedEvent={selectedEvent}
          strings={tab.strings.length}
        />
      ))}
      <Waveform axis={stretch} lines={lines} curves={curves} />
    </div>
  );
});

/** The part of the tab that is drawn; numbers only where there is room for them. */
function tabInSight(tab: TabLayout, fromPx: number, widthPx: number): TabLayout {
  const within = layoutWithin(tab, fromPx - TAB_REACH_PX, fromPx + widthPx + TAB_REACH_PX);
  if (within.numbers.length < 2 || (widthPx + 2 * TAB_REACH_PX) / within.numbers.length >= LEAST_TAB_PX)
    return within;
  const nothing = { numbers: [], bends: [], rests: [], slurs: [], stems: [], beams: [] };
  return { ...within, ...nothing, brackets: [], waves: [], accents: [], rings: [] };
}
