import { useCallback, useEffect, useMemo, useState } from "react";
import { useNavigate } from "react-router";
import type { Curves, Me, NoiseEvent, TakeMeasured } from "~/api/client";
import { usePlayer } from "~/lib/usePlayer";
import { SetupResult } from "~/ui/setup/SetupResult";
import { Failed } from "~/ui/states";
import { type SheetNote, sheetNotes, tolerancesOf } from "~/ui/take/notes.math";
import { lanesOf, spanOfAll } from "~/ui/take/sheet.math";
import { Causes } from "./Causes";
import { Extras } from "./Extras";
import { Groups } from "./Groups";
import { Inspector } from "./Inspector";
import { KeyHelp } from "./KeyHelp";
import { MeasureOtherwise } from "./MeasureOtherwise";
import { NotesTable } from "./NotesTable";
import { Quiet } from "./Quiet";
import { Rhythm } from "./Rhythm";
import { type Arrangement, Strips } from "./Strips";
import { TakeFacts } from "./TakeFacts";
import type { Judging } from "./TakeHead";
import { TakeWords } from "./TakeWords";
import { TrialView } from "./TrialView";
import { useChoice } from "./useChoice";
import { useListening } from "./useListening";
import { type SheetActions, useSheetKeys } from "./useSheetKeys";
import { useTrial } from "./useTrial";
import { useView } from "./useView";
import { isAmong, placesOf, useWord } from "./useWord";
import { type Asking, WordPanel } from "./WordPanel";

export interface TakeSheetProps {
  me: Me;
  measured: TakeMeasured;
  curves: Curves;
  sound: Blob | undefined;
  soundError: unknown;
  judging: Judging | null;
}

type Cause = TakeMeasured["analysis"]["causes"][number];

/** The sheet: why first, then strips and table on the left, the selected note on the right. */
export function TakeSheet({ me, measured, curves, sound, soundError, judging }: TakeSheetProps) {
  const { analysis, drill } = measured;
  const teacher = me.role === "teacher";
  const notes = useMemo(() => sheetNotes(measured), [measured]);
  const tolerances = useMemo(() => tolerancesOf(measured), [measured]);
  const choice = useChoice(notes);
  const { selected, chosen, select } = choice;
  const [help, setHelp] = useState(false);
  const [asking, setAsking] = useState<Asking>(null);
  const [arrangement, setArrangement] = useState<Arrangement>("line");
  const [causeShown, setCauseShown] = useState<string | null>(null);
  useEffect(() => {
    performance.mark("sheet-ready");
  }, []);
  const view = useView(analysis.take.duration_s, analysis.reference.grid);
  const player = usePlayer(sound);
  const word = useWord(measured);
  const trying = useTrial(measured);
  const navigate = useNavigate();
  const events = analysis.noise_events;
  const [selectedEvent, setSelectedEvent] = useState<NoiseEvent | null>(null);
  const ring = useMemo(() => ringUnder(selected, events), [selected, events]);
  const range = useMemo(
    () => (chosen.length > 1 ? spanOfAll(chosen, drill.length_beats, view.axis) : null),
    [chosen, drill, view.axis],
  );
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
  const lanes = useMemo(() => lanesOf(measured, notes), [measured, notes]);
  const several = new Set(notes.map((n) => n.note.repeat)).size > 1;
  /** The selected note is another sound than was thought: the one heard before or after. */
  const move = (way: 1 | -1) => {
    const { note } = selected ?? {};
    if (!note || !teacher) return;
    const sounds = [
      ...notes.flatMap((n) => n.note.onset_s ?? []),
      ...analysis.extras.map((e) => e.onset_s),
    ].sort((a, b) => a - b);
    const here = note.onset_s ?? spanOfAll([selected as SheetNote], drill.length_beats, view.axis)?.[0];
    if (here === undefined) return;
    const to =
      way > 0
        ? sounds.find((s) => s > here + LEAST_APART_S)
        : sounds.findLast((s) => s < here - LEAST_APART_S);
    if (to === undefined) return;
    const others = (measured.pins ?? []).filter((p) => p.id !== note.id || p.repeat !== note.repeat);
    trying.begin({ pins: [...others, { id: note.id, repeat: note.repeat, at_s: to }] });
  };
  const say = (kind: "meant" | "excluded") => {
    if (teacher && chosen.length && !word.pending) word.say({ kind, notes: placesOf(chosen), text: "" });
  };
  const actions: SheetActions = {
    go: choice.go,
    repeat: choice.repeat,
    wholeRepeat: choice.wholeRepeat,
    single: () => (trying.trial ? trying.drop() : choice.single()),
    fault: choice.fault,
    cause: (number) => {
      const cause = analysis.causes[number];
      if (cause) showCause(cause);
    },
    zoomIn: view.zoomIn,
    zoomOut: view.zoomOut,
    showWhole: view.showWhole,
    showChosen: () => {
      const span = spanOfAll(chosen, drill.length_beats, view.axis);
      if (span) view.showSpan(...span);
    },
    arrange: () => {
      if (!several) return;
      const order: Arrangement[] = ["line", ...lanes];
      setArrangement(order[(order.indexOf(arrangement) + 1) % order.length] ?? "line");
    },
    meant: () => say("meant"),
    exclude: () => say("excluded"),
    judgeOtherwise: () => teacher && setAsking("verdict"),
    comment: () => setAsking("comment"),
    move,
    undo: () => teacher && word.last && word.undo(word.last),
    redo: () => teacher && word.lastUndone && word.undo(word.lastUndone, false),
    keep: () => {
      if (trying.trial?.state === "measured" && !trying.trial.out_of_date && !trying.pending) trying.keep();
    },
    // Not while something is still being tried: which of both would be confirmed?
    judged: () => !trying.trial && judging?.judge(),
    desk: () => void navigate("/"),
    help: () => setHelp(true),
  };
  useSheetKeys(actions, listening);
  const faults = analysis.summary.not_clean + analysis.summary.missed;
  return (
    <div data-testid="sheet">
      {!analysis.setup && (
        <Causes causes={analysis.causes} faults={faults} shown={causeShown} onShow={showCause} />
      )}
      <TrialView trying={trying} />
      <div className="grid gap-x-6 gap-y-4 lg:grid-cols-[minmax(0,1fr)_21rem] print:block">
        <div className="min-w-0">
          {analysis.setup && (
            <div className="mb-6">
              <SetupResult
                found={analysis.setup}
                hum={analysis.take.hum}
                floorDbfs={analysis.take.noise_floor_dbfs}
              />
            </div>
          )}
          <Strips
            measured={measured}
            curves={curves}
            notes={notes}
            tolerances={tolerances}
            view={view}
            selected={selected}
            chosen={chosen}
            onSelect={select}
            player={player}
            selectedEvent={selectedEvent}
            onSelectEvent={selectEvent}
            arrangement={arrangement}
            onArrange={setArrangement}
          />
          <TakeFacts measured={measured} zone={me.zone} />
          {teacher && <MeasureOtherwise measured={measured} trying={trying} />}
          <TakeWords word={word} zone={me.zone} teacher={teacher} notes={notes} onSelect={select} />
          <Extras
            extras={analysis.extras}
            word={word}
            teacher={teacher}
            player={player}
            notes={notes}
            onSelect={select}
          />
          <Rhythm measured={measured} />
          <Quiet
            measured={measured}
            notes={notes}
            player={player}
            ready={player.ready}
            selected={selectedEvent}
            onSelect={selectEvent}
          />
          <Groups summary={analysis.summary} />
          <NotesTable
            notes={notes}
            tolerances={tolerances}
            selectedKey={selected?.key ?? null}
            onSelect={select}
          />
        </div>
        <aside
          aria-label="Selected note"
          className="lg:sticky lg:top-4 lg:max-h-[calc(100vh-2rem)] lg:self-start lg:overflow-y-auto print:hidden"
        >
          {soundError !== null && soundError !== undefined && <Failed error={soundError} />}
          {selected && (
            <Inspector
              selected={selected}
              chosen={chosen}
              tolerances={tolerances}
              curves={curves}
              sentences={measured.sentences}
              hearing={measured.hearing}
              student={measured.take.student}
              causes={analysis.causes.filter((c) => isAmong(c.places, selected))}
              listening={listening}
              ready={player.ready}
              onHelp={() => setHelp(true)}
            >
              <WordPanel
                word={word}
                selected={selected}
                chosen={chosen}
                teacher={teacher}
                zone={me.zone}
                asking={asking}
                onAsk={setAsking}
              />
            </Inspector>
          )}
        </aside>
      </div>
      <KeyHelp open={help} onOpenChange={setHelp} />
    </div>
  );
}

/** Sounds nearer than this are one. */
const LEAST_APART_S = 0.03;

/** The loudest string that rings while a note sounds. */
function ringUnder(selected: SheetNote | null, events: readonly NoiseEvent[]): NoiseEvent | null {
  if (!selected || selected.note.onset_s === null || selected.note.end_s === null) return null;
  const { onset_s: from, end_s: to } = selected.note;
  const under = events.filter(
    (e) => e.string !== null && e.hz != null && e.from_s < to + 0.3 && e.to_s > from,
  );
  return under.sort((a, b) => b.level_db - a.level_db)[0] ?? null;
}
