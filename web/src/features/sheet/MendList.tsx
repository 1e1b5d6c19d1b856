import { Pause, Play } from "lucide-react";
import { contourPath, targetHz } from "~/lib/tune.math";
import { Button } from "~/ui/Button";
import {
  findingWords,
  markOf,
  noteWords,
  placeWords,
  type SheetNote,
  toleranceCents,
} from "~/ui/take/notes.math";
import { CONTEXT_S, places } from "./mend.math";
import { useSheet } from "./sheetContext";

const SHOWN = 12;

/** On a phone: the places to mend, the worst first, each to be heard; the full sheet is a press away. */
export function MendList({ onFull }: { onFull: () => void }) {
  const { measured, notes, tolerances, player } = useSheet();
  const { summary } = measured.analysis;
  const all = places(notes);
  return (
    <section aria-label="Places to mend" className="mb-4" data-testid="mend">
      {all.length === 0 ? (
        <p className="border-y border-rule py-4">
          {summary.clean === summary.asked - (summary.excluded ?? 0)
            ? `Nothing to mend: all ${summary.clean} notes are clean.`
            : "Nothing is surely off; what could not be told stands in the full sheet."}
        </p>
      ) : (
        <ol className="border-t border-ink">
          {all.slice(0, SHOWN).map(({ note: sheetNote, repeats }) => {
            const { note } = sheetNote;
            const from = note.onset_s === null ? null : Math.max(0, note.onset_s - CONTEXT_S);
            const on = player.playing !== null && from !== null && player.playing.from === from;
            return (
              <li key={sheetNote.key} className="flex items-center gap-3 border-b border-rule py-2">
                {pitchIsOff(note) && <MiniCurve sheetNote={sheetNote} />}
                <span className="min-w-0 flex-1 leading-tight">
                  <span className="block font-semibold">{findingWords(note, tolerances)}</span>
                  <span className="block text-sm text-ink-soft">
                    {noteWords(sheetNote)}, {placeWords(note)},{" "}
                    {repeats.length === 1 ? `repeat ${note.repeat + 1}` : `repeats ${repeats.join(", ")}`}
                  </span>
                </span>
                {from !== null && (
                  <Button
                    className="size-11 shrink-0 px-0!"
                    disabled={!player.ready}
                    aria-label={`${on ? "Stop" : "Play"} repeat ${note.repeat + 1}: ${findingWords(note, tolerances)}`}
                    onClick={() => {
                      if (on) player.stop();
                      else
                        player.play({
                          from,
                          to: (note.end_s ?? note.onset_s ?? 0) + CONTEXT_S,
                          toneHz: null,
                          withTake: true,
                          rate: 1,
                        });
                    }}
                  >
                    {on ? <Pause size={18} aria-hidden /> : <Play size={18} aria-hidden />}
                  </Button>
                )}
              </li>
            );
          })}
        </ol>
      )}
      {all.length > SHOWN && (
        <p className="py-2 text-sm text-ink-soft">And {all.length - SHOWN} more, in the full sheet.</p>
      )}
      <Button className="mt-3 min-h-12! w-full" onClick={onFull}>
        Show the full sheet
      </Button>
    </section>
  );
}

const WIDTH = 72;
const HEIGHT = 36;
const MOST_CENTS = 60;

function pitchIsOff(note: SheetNote["note"]): boolean {
  return [note.pitch, note.bend, note.vibrato].some((part) => part?.verdict === "outside");
}

/** The note's pitch about its target in a thumb's size; nothing where it has none. */
function MiniCurve({ sheetNote: { note } }: { sheetNote: SheetNote }) {
  const { curves, tolerances } = useSheet();
  const target = targetHz(note);
  const mark = markOf(note);
  if (note.onset_s === null || note.end_s === null || target === null) return null;
  const { onset_s: from, end_s: to } = note;
  const pxPerSecond = WIDTH / Math.max(0.05, to - from);
  const y = (cents: number) =>
    (HEIGHT / 2) * (1 - Math.max(-MOST_CENTS, Math.min(MOST_CENTS, cents)) / MOST_CENTS);
  const tolerance = toleranceCents(note, tolerances);
  return (
    <svg width={WIDTH} height={HEIGHT} className="shrink-0" aria-hidden>
      <rect width={WIDTH} y={y(tolerance)} height={y(-tolerance) - y(tolerance)} fill="var(--corridor)" />
      <path
        d={contourPath(curves, from, to, target, (s) => (s - from) * pxPerSecond, y, pxPerSecond)}
        fill="none"
        stroke={mark === "under" ? "var(--under)" : mark === "over" ? "var(--over)" : "var(--ink)"}
        strokeWidth={2}
      />
    </svg>
  );
}
