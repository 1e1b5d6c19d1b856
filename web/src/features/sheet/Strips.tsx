import { Minus, Plus } from "lucide-react";
import { type MouseEvent, type ReactNode, useCallback, useEffect, useMemo, useRef } from "react";
import type { Curves, NoiseEvent, TakeMeasured } from "~/api/client";
import { secondsAt, xOf } from "~/lib/axis.math";
import type { Player } from "~/lib/usePlayer";
import { Button } from "~/ui/Button";
import { LaneScale, laneHeight } from "~/ui/strips/LaneScale";
import { Playhead } from "~/ui/strips/Playhead";
import { WAVE_HEIGHT } from "~/ui/strips/Waveform";
import { STRING_GAP, type TabLayout, TOP } from "~/ui/tab/tab.math";
import { keyOf, markOf, type SheetNote, type Tolerances } from "~/ui/take/notes.math";
import type { LaneName } from "~/ui/take/sheet.math";
import { lanesOf, nearest, nearestEvent, spanOf, spanOfAll, tabOnAxis } from "~/ui/take/sheet.math";
import { Minimap } from "./Minimap";
import { Stacked } from "./Stacked";
import { TILE_PX, Tile } from "./Tile";
import type { View } from "./useView";

const NEAR_PX = 60;

export type Arrangement = "line" | LaneName;

export interface StripsProps {
  measured: TakeMeasured;
  curves: Curves;
  notes: SheetNote[];
  tolerances: Tolerances;
  view: View;
  selected: SheetNote | null;
  /** More than the selected note, where a range is chosen. */
  chosen: readonly SheetNote[];
  onSelect: (key: string, extend?: boolean) => void;
  player: Player;
  selectedEvent: NoiseEvent | null;
  onSelectEvent: (event: NoiseEvent) => void;
  arrangement: Arrangement;
  onArrange: (arrangement: Arrangement) => void;
}

/** Tab line, strips and waveform on one axis of beats; a strip only where the drill asks for what it shows. */
export function Strips(props: StripsProps) {
  const { measured, notes, view, curves, arrangement, onArrange } = props;
  const lanes = useMemo(() => lanesOf(measured, notes), [measured, notes]);
  const several = new Set(notes.map((n) => n.note.repeat)).size > 1;
  return (
    <section aria-label="Strips" className="print:break-inside-avoid">
      <Minimap view={view} notes={notes} curves={curves} />
      {arrangement === "line" ? (
        <InLine {...props} lanes={lanes} />
      ) : (
        <Stacked
          measured={measured}
          whole={view.axis}
          selected={props.selected}
          onSelect={props.onSelect}
          name={lanes.includes(arrangement) ? arrangement : "tune"}
          curves={curves}
          notes={notes}
          tolerances={props.tolerances}
          extras={measured.analysis.extras}
          events={measured.analysis.noise_events}
          selectedEvent={props.selectedEvent}
          strings={measured.drill.content.tuning.length}
        />
      )}
      <div className="mt-1 flex flex-wrap items-center gap-1 print:hidden">
        {arrangement === "line" && (
          <>
            <Small label="Zoom out" keys="-" disabled={view.isWhole} onClick={view.zoomOut}>
              <Minus size={14} aria-hidden />
            </Small>
            <Small label="Zoom in" keys="+" onClick={view.zoomIn}>
              <Plus size={14} aria-hidden />
            </Small>
            <Small label="The whole take" keys="0" disabled={view.isWhole} onClick={view.showWhole}>
              Whole
            </Small>
          </>
        )}
        {several && (
          <>
            <Small
              label="Repeats in line"
              keys="V"
              pressed={arrangement === "line"}
              onClick={() => onArrange("line")}
            >
              In line
            </Small>
            {lanes.map((lane) => (
              <Small
                key={lane}
                label={`Stack ${NAMES[lane]}, repeat under repeat`}
                keys="V"
                pressed={arrangement === lane}
                onClick={() => onArrange(lane)}
              >
                Stack {NAMES[lane]}
              </Small>
            ))}
          </>
        )}
        <span className="ml-2 text-xs text-ink-soft">
          band: inside the tolerance; under the line flat, early, soft; over it sharp, late, loud; hatched:
          cannot tell{lanes.includes("touch") ? "; hollow: slurred or tapped" : ""}
          {lanes.includes("quiet") ? "; Quiet: a stroke where a string rings, the heavier the louder" : ""}
        </span>
      </div>
    </section>
  );
}

const NAMES: Record<LaneName, string> = { tune: "Tune", time: "Time", touch: "Touch", quiet: "Quiet" };

function Small({
  label,
  keys,
  pressed,
  disabled,
  onClick,
  children,
}: {
  label: string;
  keys: string;
  pressed?: boolean;
  disabled?: boolean;
  onClick: () => void;
  children: ReactNode;
}) {
  return (
    <Button
      kind={pressed === undefined ? "quiet" : "plain"}
      className="min-h-7 px-2"
      aria-label={label}
      aria-keyshortcuts={keys}
      aria-pressed={pressed}
      title={`Key: ${keys}`}
      disabled={disabled}
      onClick={onClick}
    >
      {children}
    </Button>
  );
}

function InLine({
  measured,
  curves,
  notes,
  tolerances,
  view,
  selected,
  chosen,
  onSelect,
  player,
  selectedEvent,
  onSelectEvent,
  lanes,
}: StripsProps & { lanes: LaneName[] }) {
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
  const range = chosen.length > 1 ? spanOfAll(chosen, drill.length_beats, axis) : null;

  const clickAt = (event: MouseEvent<HTMLElement>) => {
    if ((event.target as Element).closest("g[style]")) return;
    const x = event.clientX - event.currentTarget.getBoundingClientRect().left;
    if ((event.target as Element).closest("[data-testid=quiet-strip]")) {
      const rung = nearestEvent(events, secondsAt(axis, x));
      if (rung) {
        onSelectEvent(rung);
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
    lanes.reduce((sum, lane) => sum + laneHeight(lane, tab.strings.length) + 1, 0) +
    WAVE_HEIGHT +
    1;
  return (
    <div className="flex border-y border-ink">
      <Names tab={tab} lanes={lanes} />
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

function Names({ tab, lanes }: { tab: TabLayout; lanes: readonly LaneName[] }) {
  return (
    <div className="w-20 shrink-0 text-xs text-ink-soft" aria-hidden="true">
      <div className="relative" style={{ height: tab.heightPx }}>
        <StripName>Tab</StripName>
        {tab.strings.map((string, i) => (
          <span key={string.y} className="figures absolute right-2" style={{ top: TOP + i * STRING_GAP - 8 }}>
            {i + 1} {string.name}
          </span>
        ))}
      </div>
      {lanes.map((lane) => (
        <div
          key={lane}
          className="relative border-t border-rule"
          style={{ height: laneHeight(lane, tab.strings.length) }}
        >
          <StripName>{NAMES[lane]}</StripName>
          <LaneScale name={lane} strings={tab.strings.map((s) => s.name)} />
        </div>
      ))}
      <div className="relative border-t border-rule" style={{ height: WAVE_HEIGHT }}>
        <StripName>Sound</StripName>
      </div>
    </div>
  );
}

function StripName({ children }: { children: ReactNode }) {
  return <span className="absolute top-1 left-0 font-semibold text-ink">{children}</span>;
}
