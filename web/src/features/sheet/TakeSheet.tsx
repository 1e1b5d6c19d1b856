import { useEffect, useMemo, useState } from "react";
import type { Curves, Me, NoiseEvent, TakeMeasured } from "~/api/client";
import { usePlayer } from "~/lib/usePlayer";
import { SetupResult } from "~/ui/setup/SetupResult";
import { Failed } from "~/ui/states";
import { type SheetNote, sheetNotes, tolerancesOf } from "~/ui/take/notes.math";
import { BeatsFrom } from "./BeatsFrom";
import { Groups } from "./Groups";
import { Inspector } from "./Inspector";
import { KeyHelp } from "./KeyHelp";
import { NotesTable } from "./NotesTable";
import { Quiet } from "./Quiet";
import { Rhythm } from "./Rhythm";
import { Strips } from "./Strips";
import { TakeFacts } from "./TakeFacts";
import { useListening } from "./useListening";
import { useSheetKeys } from "./useSheetKeys";

export interface TakeSheetProps {
  me: Me;
  measured: TakeMeasured;
  curves: Curves;
  sound: Blob | undefined;
  soundError: unknown;
}

/** The sheet: strips and table on the left, the selected note on the right. */
export function TakeSheet({ me, measured, curves, sound, soundError }: TakeSheetProps) {
  const notes = useMemo(() => sheetNotes(measured), [measured]);
  const tolerances = useMemo(() => tolerancesOf(measured), [measured]);
  const [selectedKey, setSelectedKey] = useState<string | null>(
    () =>
      (
        notes.find((n) => n.note.clean === "outside" && (n.note.bend || n.note.vibrato)) ??
        notes.find((n) => n.note.clean === "outside") ??
        notes.find((n) => n.note.bend || n.note.vibrato) ??
        notes[0]
      )?.key ?? null,
  );
  const [help, setHelp] = useState(false);
  useEffect(() => {
    performance.mark("sheet-ready");
  }, []);
  const player = usePlayer(sound);
  const selected = notes.find((n) => n.key === selectedKey) ?? null;
  const events = measured.analysis.noise_events;
  const [selectedEvent, setSelectedEvent] = useState<NoiseEvent | null>(null);
  const ring = useMemo(() => ringUnder(selected, events), [selected, events]);
  const listening = useListening(player, selected, notes, ring);
  const selectEvent = (event: NoiseEvent) => {
    setSelectedEvent(event);
    const near = notes.find((n) => n.note.id === event.near && n.note.repeat === event.repeat);
    if (near) setSelectedKey(near.key);
  };
  useSheetKeys({ notes, selectedKey, select: setSelectedKey, listening, showHelp: () => setHelp(true) });
  return (
    <div className="grid gap-x-6 gap-y-4 lg:grid-cols-[minmax(0,1fr)_21rem]" data-testid="sheet">
      <div className="min-w-0">
        {measured.analysis.setup && (
          <div className="mb-6">
            <SetupResult
              found={measured.analysis.setup}
              hum={measured.analysis.take.hum}
              floorDbfs={measured.analysis.take.noise_floor_dbfs}
            />
          </div>
        )}
        <Strips
          measured={measured}
          curves={curves}
          notes={notes}
          tolerances={tolerances}
          selected={selected}
          onSelect={setSelectedKey}
          player={player}
          selectedEvent={selectedEvent}
          onSelectEvent={selectEvent}
        />
        <TakeFacts measured={measured} zone={me.zone} />
        {me.role === "teacher" && <BeatsFrom measured={measured} />}
        <Rhythm measured={measured} />
        <Quiet
          measured={measured}
          notes={notes}
          player={player}
          ready={sound !== undefined}
          selected={selectedEvent}
          onSelect={selectEvent}
        />
        <Groups summary={measured.analysis.summary} />
        <NotesTable
          notes={notes}
          tolerances={tolerances}
          selectedKey={selectedKey}
          onSelect={setSelectedKey}
        />
      </div>
      <aside aria-label="Selected note" className="lg:sticky lg:top-4 lg:self-start">
        {soundError !== null && soundError !== undefined && <Failed error={soundError} />}
        {selected && (
          <Inspector
            selected={selected}
            tolerances={tolerances}
            curves={curves}
            sentences={measured.sentences}
            hearing={measured.hearing}
            student={measured.take.student}
            listening={listening}
            ready={sound !== undefined}
            onHelp={() => setHelp(true)}
          />
        )}
      </aside>
      <KeyHelp open={help} onOpenChange={setHelp} />
    </div>
  );
}

/** The loudest string that rings while a note sounds. */
function ringUnder(selected: SheetNote | null, events: readonly NoiseEvent[]): NoiseEvent | null {
  if (!selected || selected.note.onset_s === null || selected.note.end_s === null) return null;
  const { onset_s: from, end_s: to } = selected.note;
  const under = events.filter(
    (e) => e.string !== null && e.hz != null && e.from_s < to + 0.3 && e.to_s > from,
  );
  return under.sort((a, b) => b.level_db - a.level_db)[0] ?? null;
}
