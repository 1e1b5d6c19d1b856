import { Minus, Plus } from "lucide-react";
import { type MouseEvent, useEffect, useMemo, useRef, useState } from "react";
import type { Curves, NoiseEvent, TakeMeasured } from "~/api/client";
import { beatLines, makeAxis, secondsAt, secondsOfBeat, xOf } from "~/lib/axis.math";
import type { Player } from "~/lib/usePlayer";
import { Button } from "~/ui/Button";
import { TabLine } from "~/ui/tab/TabLine";
import { layoutTab, STRING_GAP, TOP } from "~/ui/tab/tab.math";
import { keyOf, markOf, type SheetNote, type Tolerances } from "~/ui/take/notes.math";
import { Playhead } from "./Playhead";
import { QuietScale, QuietStrip, quietHeight } from "./QuietStrip";
import { TIME_HEIGHT, TimeScale, TimeStrip } from "./TimeStrip";
import { TOUCH_HEIGHT, TouchScale, TouchStrip } from "./TouchStrip";
import { TUNE_HEIGHT, TuneScale, TuneStrip } from "./TuneStrip";
import { WAVE_HEIGHT, Waveform } from "./Waveform";

const ZOOMS = [12, 18, 26, 38, 56, 84, 126, 190];
const START_ZOOM = 4;

export interface StripsProps {
  measured: TakeMeasured;
  curves: Curves;
  notes: SheetNote[];
  tolerances: Tolerances;
  selected: SheetNote | null;
  onSelect: (key: string) => void;
  player: Player;
  selectedEvent: NoiseEvent | null;
  onSelectEvent: (event: NoiseEvent) => void;
}

/** Tab line, strips and waveform on one axis of beats; a strip only where the drill asks for what it shows. */
export function Strips({
  measured,
  curves,
  notes,
  tolerances,
  selected,
  onSelect,
  player,
  selectedEvent,
  onSelectEvent,
}: StripsProps) {
  const [zoom, setZoom] = useState(START_ZOOM);
  const scroller = useRef<HTMLDivElement>(null);
  const { analysis, drill } = measured;
  const pxPerSecond = ZOOMS[zoom] as number;
  const axis = useMemo(
    () => makeAxis(analysis.take.duration_s, pxPerSecond, analysis.reference.grid),
    [analysis, pxPerSecond],
  );
  const timed = notes.some((n) => n.note.timing?.error_ms != null);
  const touched = notes.some((n) => n.note.level || n.note.length);
  const quiet = drill.content.measures.includes("noise");
  const events = analysis.noise_events;
  const repeats = drill.content.repeats ?? 1;
  const lines = useMemo(
    () => beatLines(axis, repeats, drill.length_beats, drill.content.tempo?.beats_per_bar ?? 4),
    [axis, repeats, drill],
  );
  const tab = useMemo(() => tabOnAxis(measured, axis, notes), [measured, axis, notes]);
  const noteOf = useMemo(() => new Map(notes.map((n) => [keyOf(n.note.id, n.note.repeat), n])), [notes]);

  const [fromS, toS] = selectedSpan(selected, measured, axis);
  useEffect(() => {
    const box = scroller.current;
    if (!box || fromS === null) return;
    const left = xOf(axis, fromS);
    const right = xOf(axis, toS);
    if (left < box.scrollLeft + 30 || right > box.scrollLeft + box.clientWidth - 30) {
      box.scrollTo({ left: left - box.clientWidth / 3 });
    }
  }, [axis, fromS, toS]);

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
    if (hit) onSelect(hit.key);
  };
  return (
    <section aria-label="Strips">
      <div className="flex border-y border-ink">
        <div className="w-20 shrink-0 text-xs text-ink-soft" aria-hidden="true">
          <div className="relative" style={{ height: tab.heightPx }}>
            <StripName>Tab</StripName>
            {tab.strings.map((string, i) => (
              <span
                key={string.y}
                className="figures absolute right-2"
                style={{ top: TOP + i * STRING_GAP - 8 }}
              >
                {i + 1} {string.name}
              </span>
            ))}
          </div>
          <div className="relative border-t border-rule" style={{ height: TUNE_HEIGHT }}>
            <StripName>Tune</StripName>
            <TuneScale />
          </div>
          {timed && (
            <div className="relative border-t border-rule" style={{ height: TIME_HEIGHT }}>
              <StripName>Time</StripName>
              <TimeScale />
            </div>
          )}
          {touched && (
            <div className="relative border-t border-rule" style={{ height: TOUCH_HEIGHT }}>
              <StripName>Touch</StripName>
              <TouchScale />
            </div>
          )}
          {quiet && (
            <div
              className="relative border-t border-rule"
              style={{ height: quietHeight(tab.strings.length) }}
            >
              <StripName>Quiet</StripName>
              <QuietScale names={tab.strings.map((s) => s.name)} />
            </div>
          )}
          <div className="relative border-t border-rule" style={{ height: WAVE_HEIGHT }}>
            <StripName>Sound</StripName>
          </div>
        </div>
        {/* biome-ignore lint/a11y/useSemanticElements: a scrolling picture with an equal table below */}
        <div
          ref={scroller}
          role="group"
          className="min-w-0 flex-1 overflow-x-auto"
          // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling area must be reachable by keyboard
          tabIndex={0}
          aria-label="Tab, tuning, time, touch, ringing strings and waveform of the take; the table below holds the same values"
        >
          {/* biome-ignore lint/a11y/noStaticElementInteractions lint/a11y/useKeyWithClickEvents: arrow keys do the same */}
          <div className="relative" style={{ width: axis.widthPx }} onClick={clickAt}>
            {fromS !== null && (
              <div
                className="absolute inset-y-0 border-x border-ink/40 bg-ink/6"
                style={{ left: xOf(axis, fromS), width: Math.max(3, (toS - fromS) * axis.pxPerSecond) }}
              />
            )}
            <TabLine
              layout={tab}
              widthPx={axis.widthPx}
              lines={axis.grid ? lines : []}
              selected={selected ? { id: selected.note.id, repeat: selected.note.repeat } : null}
              markOf={(id, repeat) => {
                const found = noteOf.get(keyOf(id, repeat));
                return found ? markOf(found.note) : "none";
              }}
              onSelect={(id, repeat) => {
                const found = noteOf.get(keyOf(id, repeat));
                if (found) onSelect(found.key);
              }}
            />
            <TuneStrip axis={axis} lines={lines} curves={curves} notes={notes} tolerances={tolerances} />
            {timed && <TimeStrip axis={axis} lines={lines} notes={notes} extras={analysis.extras} />}
            {touched && <TouchStrip axis={axis} lines={lines} notes={notes} />}
            {quiet && (
              <QuietStrip
                axis={axis}
                lines={lines}
                events={events}
                strings={tab.strings.length}
                selected={selectedEvent}
              />
            )}
            <Waveform axis={axis} lines={lines} curves={curves} />
            <Playhead axis={axis} player={player} />
          </div>
        </div>
      </div>
      <div className="mt-1 flex items-center gap-1">
        <Button
          kind="quiet"
          className="px-1"
          aria-label="Zoom out"
          disabled={zoom === 0}
          onClick={() => setZoom(zoom - 1)}
        >
          <Minus size={14} aria-hidden />
        </Button>
        <Button
          kind="quiet"
          className="px-1"
          aria-label="Zoom in"
          disabled={zoom === ZOOMS.length - 1}
          onClick={() => setZoom(zoom + 1)}
        >
          <Plus size={14} aria-hidden />
        </Button>
        <span className="text-xs text-ink-soft">
          band: inside the tolerance; under the line flat, early, soft; over it sharp, late, loud; hatched:
          cannot tell{touched ? "; hollow: slurred or tapped" : ""}
          {quiet ? "; Quiet: a stroke where a string rings, the heavier the louder" : ""}
        </span>
      </div>
    </section>
  );
}

function StripName({ children }: { children: string }) {
  return <span className="absolute top-1 left-0 font-semibold text-ink">{children}</span>;
}

type Axis = ReturnType<typeof makeAxis>;

/** With a grid the numbers stand on their beats, without one where the notes were heard. */
function tabOnAxis(measured: TakeMeasured, axis: Axis, notes: SheetNote[]) {
  const { drill } = measured;
  const repeats = drill.content.repeats ?? 1;
  if (axis.grid) {
    return layoutTab(drill.content, drill.length_beats, repeats, (beat) =>
      xOf(axis, secondsOfBeat(axis, beat) as number),
    );
  }
  const heard = notes
    .filter((n) => n.note.onset_s !== null && n.event)
    .map(
      (n) => [n.note.repeat * drill.length_beats + (n.event?.beat ?? 0), n.note.onset_s as number] as const,
    );
  return layoutTab(drill.content, drill.length_beats, repeats, (beat) => xOf(axis, between(heard, beat)));
}

function between(known: (readonly [number, number])[], beat: number): number {
  const before = known.findLast(([b]) => b <= beat) ?? known[0];
  const after = known.find(([b]) => b > beat);
  if (!before) return 0;
  if (!after || before[0] > beat) return before[1] + (beat - before[0]) * 0.5;
  return before[1] + ((beat - before[0]) / (after[0] - before[0])) * (after[1] - before[1]);
}

function selectedSpan(
  selected: SheetNote | null,
  measured: TakeMeasured,
  axis: Axis,
): [number | null, number] {
  if (!selected) return [null, 0];
  const { note, event } = selected;
  if (note.onset_s !== null && note.end_s !== null) return [note.onset_s, note.end_s];
  const beat = note.repeat * measured.drill.length_beats + (event?.beat ?? 0);
  const from = secondsOfBeat(axis, beat);
  return from === null ? [null, 0] : [from, from + (event?.length ?? 1) * (axis.grid?.secondsPerBeat ?? 1)];
}

const EVENT_REACH_S = 0.25;

function nearestEvent(events: readonly NoiseEvent[], seconds: number): NoiseEvent | undefined {
  const away = (e: NoiseEvent) => Math.max(e.from_s - seconds, seconds - e.to_s, 0);
  return events
    .filter((e) => e.kind !== "hum" && away(e) < EVENT_REACH_S)
    .sort((a, b) => away(a) - away(b) || b.level_db - a.level_db)[0];
}

function nearest(notes: SheetNote[], seconds: number): SheetNote | undefined {
  let best: SheetNote | undefined;
  let least = Number.POSITIVE_INFINITY;
  for (const candidate of notes) {
    const { onset_s: from, end_s: to } = candidate.note;
    if (from === null || to === null) continue;
    const away = seconds < from ? from - seconds : seconds > to ? seconds - to : 0;
    if (away < least) {
      least = away;
      best = candidate;
    }
  }
  return best;
}
