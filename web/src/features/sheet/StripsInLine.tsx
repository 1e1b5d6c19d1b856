import { type MouseEvent, useCallback, useEffect, useMemo, useRef } from "react";
import { secondsAt, xOf } from "~/lib/axis.math";
import { laneHeight } from "~/ui/strips/LaneScale";
import { Playhead } from "~/ui/strips/Playhead";
import { useTune } from "~/ui/strips/tuneHeight";
import { WAVE_HEIGHT } from "~/ui/strips/Waveform";
import { keyOf, markOf } from "~/ui/take/notes.math";
import { nearest, nearestEvent, spanOf, tabOnAxis } from "~/ui/take/sheet.math";
import { beginsAt } from "~/ui/take/tries.math";
import { HeardHandle } from "./HeardHandle";
import { MarkedStretches } from "./Marked";
import { StripNames } from "./StripNames";
import { useSheet } from "./sheetContext";
import { TILE_PX, Tile } from "./Tile";
import { useMarking } from "./useMarking";

const NEAR_PX = 60;
const SHOWN_AT_FIRST_S = 2;

/** All strips over the whole take, drawn in tiles; scrolled, zoomed, and clicked to select. */
export function StripsInLine() {
  const {
    measured,
    curves,
    notes,
    tolerances,
    view,
    choice,
    range,
    player,
    lanes,
    selectedEvent,
    selectEvent,
  } = useSheet();
  const tune = useTune();
  const { selected, select: onSelect } = choice;
  const { analysis, drill } = measured;
  const { axis, reveal } = view;
  const events = analysis.noise_events;
  const tab = useMemo(() => tabOnAxis(measured, axis, notes), [measured, axis, notes]);
  const noteOf = useMemo(() => new Map(notes.map((n) => [keyOf(n.note.id, n.note.repeat), n])), [notes]);
  const span = selected && spanOf(selected, drill.length_beats, axis);
  const [fromS, toS] = span ?? [null, null];
  // Only where another note is selected: who zooms or scrolls elsewhere wants to be there.
  const revealNow = useRef(reveal);
  useEffect(() => {
    revealNow.current = reveal;
  }, [reveal]);
  useEffect(() => {
    if (fromS !== null && toS !== null) revealNow.current(fromS, toS);
  }, [fromS, toS]);
  // Opened, it shows where the playing begins, not the talk before it.
  const begins = useRef(beginsAt(analysis));
  useEffect(() => {
    if (begins.current !== null) revealNow.current(begins.current, begins.current + SHOWN_AT_FIRST_S);
  }, []);

  const { marking, markBy, dragged } = useMarking(axis);
  const clickAt = (event: MouseEvent<HTMLElement>) => {
    if (dragged()) return;
    if ((event.target as Element).closest("g[style]")) return;
    const x = event.clientX - event.currentTarget.getBoundingClientRect().left;
    if ((event.target as Element).closest("[data-testid=quiet-strip]")) {
      const rung = nearestEvent(events, secondsAt(axis, x));
      if (rung) {
        selectEvent(rung);
        return;
      }
    }
    const hit = nearest(notes, secondsAt(axis, x));
    if (hit) onSelect(hit.key, event.shiftKey);
  };
  const mark = useCallback(
    (id: string, repeat: number) => {
      const found = noteOf.get(keyOf(id, repeat));
      return found ? markOf(found.note) : "none";
    },
    [noteOf],
  );
  const selectNumber = useCallback(
    (id: string, repeat: number) => {
      const found = noteOf.get(keyOf(id, repeat));
      if (found) onSelect(found.key);
    },
    [noteOf, onSelect],
  );
  const [firstTile, lastTile] = view.tiles;
  const tiles = Array.from({ length: lastTile - firstTile + 1 }, (_, i) => firstTile + i);
  // A number stands on its beat, a little before or after where it was played.
  const isIn = (index: number) => spansTile(index, fromS, toS);
  const eventIsIn = (index: number) =>
    spansTile(index, selectedEvent?.from_s ?? null, selectedEvent?.to_s ?? null);
  const spansTile = (index: number, from: number | null, to: number | null) =>
    from !== null &&
    to !== null &&
    xOf(axis, to) + NEAR_PX >= index * TILE_PX &&
    xOf(axis, from) - NEAR_PX <= (index + 1) * TILE_PX;
  const heightPx =
    tab.heightPx +
    lanes.reduce((sum, lane) => sum + laneHeight(lane, tab.strings.length, tune) + 1, 0) +
    WAVE_HEIGHT +
    1;
  return (
    <div className="flex border-y border-ink">
      <StripNames tab={tab} lanes={lanes} />
      {/* biome-ignore lint/a11y/useSemanticElements: a scrolling picture with an equal table below */}
      <div
        ref={view.attach}
        role="group"
        className="min-w-0 flex-1 overflow-x-auto"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling area must be reachable by keyboard
        tabIndex={0}
        aria-label="Tab, tuning, time, touch, ringing strings and waveform of the take; the table below holds the same values"
        data-testid="strips"
        onScroll={view.onScroll}
      >
        {/* biome-ignore lint/a11y/noStaticElementInteractions: keys of the sheet select notes; this is the pointer's way */}
        {/* biome-ignore lint/a11y/useKeyWithClickEvents: as above */}
        <div
          ref={view.content}
          className="relative"
          style={{ width: axis.widthPx, height: heightPx }}
          onClick={clickAt}
          {...markBy}
        >
          {range && <Band from={xOf(axis, range[0])} to={xOf(axis, range[1])} wide />}
          {span && <Band from={xOf(axis, span[0])} to={xOf(axis, span[1])} />}
          {tiles.map((index) => (
            <Tile
              key={index}
              index={index}
              axis={axis}
              measured={measured}
              curves={curves}
              notes={notes}
              tolerances={tolerances}
              tab={tab}
              lanes={lanes}
              markOf={mark}
              onSelectNumber={selectNumber}
              selectedId={isIn(index) && selected ? selected.note.id : null}
              selectedRepeat={isIn(index) && selected ? selected.note.repeat : 0}
              selectedEvent={selectedEvent && eventIsIn(index) ? selectedEvent : null}
            />
          ))}
          <MarkedStretches axis={axis} marking={marking} />
          <HeardHandle />
          <Playhead axis={axis} player={player} />
        </div>
      </div>
    </div>
  );
}

/** What is selected, over all strips. */
function Band({ from, to, wide = false }: { from: number; to: number; wide?: boolean }) {
  return (
    <div
      className={
        wide
          ? "pointer-events-none absolute inset-y-0 border-x-2 border-focus bg-corridor/50"
          : "pointer-events-none absolute inset-y-0 border-x border-rule-strong bg-sheet"
      }
      style={{ left: from, width: Math.max(2, to - from) }}
      data-testid={wide ? "range" : undefined}
      aria-hidden="true"
    />
  );
}
