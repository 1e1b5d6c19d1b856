import { useCallback, useMemo, useState } from "react";
import type { Curves, Me, NoiseEvent, TakeMeasured } from "~/api/client";
import { usePlayer } from "~/lib/usePlayer";
import { ringUnder } from "~/ui/take/noise.math";
import { sheetNotes, tolerancesOf } from "~/ui/take/notes.math";
import { lanesOf, spanOfAll } from "~/ui/take/sheet.math";
import type { Arrangement, Asking, Cause, Sheet } from "./sheetContext";
import { useChoice } from "./useChoice";
import { useListening } from "./useListening";
import { useTrial } from "./useTrial";
import { useView } from "./useView";
import { isAmong, useWord } from "./useWord";
import type { Measure } from "./values/Value";

export interface SheetGiven {
  me: Me;
  measured: TakeMeasured;
  curves: Curves;
  sound: Blob | undefined;
  soundError: unknown;
}

/** The state of a take's sheet. */
export function useSheetState({ me, measured, curves, sound, soundError }: SheetGiven): Sheet {
  const { analysis, drill } = measured;
  const notes = useMemo(() => sheetNotes(measured), [measured]);
  const tolerances = useMemo(() => tolerancesOf(measured), [measured]);
  const lanes = useMemo(() => lanesOf(measured, notes), [measured, notes]);
  const choice = useChoice(notes);
  const { selected, chosen, select } = choice;
  const view = useView(analysis.take.duration_s, analysis.reference.grid);
  const player = usePlayer(sound);
  const [selectedEvent, setSelectedEvent] = useState<NoiseEvent | null>(null);
  const [stretch, markStretch] = useState<readonly [number, number] | null>(null);
  const [causeShown, setCauseShown] = useState<string | null>(null);
  const [arrangement, arrange] = useState<Arrangement>("line");
  const [asked, setAsked] = useState<{ asking: Asking; of: Measure | null }>({ asking: null, of: null });
  const ask = useCallback(
    (asking: Asking, measure?: Measure) => setAsked({ asking, of: measure ?? null }),
    [],
  );
  const [help, showHelp] = useState(false);
  const range = useMemo(
    () => (chosen.length > 1 ? spanOfAll(chosen, drill.length_beats, view.axis) : null),
    [chosen, drill, view.axis],
  );
  const ring = useMemo(() => ringUnder(selected, analysis.noise_events), [selected, analysis.noise_events]);
  const beatsPerBar = drill.content.tempo?.beats_per_bar ?? 4;
  const listening = useListening({ player, axis: view.axis, beatsPerBar, selected, range, notes, ring });
  const selectEvent = useCallback(
    (event: NoiseEvent) => {
      setSelectedEvent(event);
      const near = notes.find((n) => n.note.id === event.near && n.note.repeat === event.repeat);
      if (near) select(near.key);
    },
    [notes, select],
  );
  /** Asked again, the next of its notes. */
  const showCause = useCallback(
    (cause: Cause) => {
      const own = notes.filter((n) => isAmong(cause.places, n));
      const at = own.findIndex((n) => n.key === selected?.key);
      const next = own[(at + 1) % Math.max(1, own.length)];
      setCauseShown(cause.code);
      if (next) select(next.key);
    },
    [notes, selected, select],
  );
  return {
    me,
    teacher: me.role === "teacher",
    measured,
    curves,
    notes,
    tolerances,
    lanes,
    several: new Set(notes.map((n) => n.note.repeat)).size > 1,
    view,
    player,
    soundError,
    listening,
    choice,
    range,
    selectedEvent,
    selectEvent,
    stretch,
    markStretch,
    causeShown,
    showCause,
    arrangement,
    arrange,
    word: useWord(measured),
    asking: asked.asking,
    askedOf: asked.of,
    ask,
    trying: useTrial(measured),
    help,
    showHelp,
  };
}
