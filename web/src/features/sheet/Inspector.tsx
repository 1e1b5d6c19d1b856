import type { Hearing } from "~/api/client";
import { useKept } from "~/lib/useKept";
import { plusMinus, verdictWords } from "~/lib/words";
import { cx } from "~/ui/cx";
import { findingWords, markOf, noteWords, placeWords, type SheetNote, uCents } from "~/ui/take/notes.math";
import { rhythmFaults } from "~/ui/take/rhythm.math";
import { NoteCurve } from "./NoteCurve";
import { useSheet } from "./sheetContext";
import { Transport } from "./Transport";
import { isAmong } from "./useWord";
import { BendValues, PitchValues, SlideValues, VibratoValues } from "./values/PitchValues";
import { NoiseValues, RhythmValues } from "./values/SoundValues";
import { AllValues, type Judged, JudgedContext } from "./values/Value";
import { WordPanel } from "./WordPanel";

/** The selected note: finding, sound, curve, every value with its uncertainty and tolerance. */
export function Inspector({ selected }: { selected: SheetNote }) {
  const { measured, curves, tolerances, choice, listening, player, showHelp, teacher, ask } = useSheet();
  const { chosen } = choice;
  const [all, showAll] = useKept("fortimetra.allValues", false);
  const { sentences, hearing } = measured;
  const causes = measured.analysis.causes.filter((c) => isAmong(c.places, selected));
  const { note } = selected;
  const mark = markOf(note);
  const judged: Judged = {
    verdictOf: (measure) => note[measure]?.verdict ?? null,
    change: teacher ? (measure) => ask("verdict", measure) : null,
  };
  return (
    <div className="border-t-2 border-ink pt-3" data-testid="inspector">
      <p className="text-sm text-ink-soft">
        {noteWords(selected)}, {placeWords(note)}, repeat {note.repeat + 1}
        {chosen.length > 1 && (
          <strong className="ml-2 font-semibold text-ink" data-testid="chosen">
            {chosen.length} notes chosen
          </strong>
        )}
      </p>
      <p
        className={cx(
          "mt-1 text-2xl leading-7 font-bold",
          mark === "under" && "text-under",
          mark === "over" && "text-over",
          mark === "ring" && "text-ring",
        )}
        data-testid="finding"
        aria-live="polite"
      >
        {findingWords(note, tolerances)}{" "}
        <span className="figures text-base font-normal whitespace-nowrap text-ink-soft">
          {(note.vibrato && !note.bend) || mark === "ring" ? "" : findingU(note)}
        </span>
      </p>
      <p className="text-sm">
        <span className={note.said ? "border border-dashed border-ink px-1" : ""}>{standing(note)}</span>
        {note.reasons.map((code) => (
          <span key={code} className="block text-ink-soft">
            {sentences[code] ?? code}
          </span>
        ))}
      </p>
      <JudgedContext value={judged}>
        <AllValues value={all}>
          {note.bend ? (
            <BendValues bend={note.bend} tolerances={tolerances} />
          ) : (
            note.pitch && <PitchValues pitch={note.pitch} tolerances={tolerances} />
          )}
          {note.vibrato && (
            <VibratoValues
              vibrato={note.vibrato}
              asked={selected.event?.vibrato ?? null}
              tolerances={tolerances}
            />
          )}
          {note.slide && <SlideValues slide={note.slide} />}
          <RhythmValues note={note} tolerances={tolerances} />
          <NoiseValues note={note} tolerances={tolerances} />
        </AllValues>
      </JudgedContext>
      <button
        type="button"
        className="mt-1 mb-3 text-sm text-ink-soft underline print:hidden"
        aria-expanded={all}
        onClick={() => showAll(!all)}
      >
        {all ? "Only what is judged" : "All values"}
      </button>
      <Transport
        listening={listening}
        ready={player.ready}
        ranged={chosen.length > 1}
        onHelp={() => showHelp(true)}
      />
      <WordPanel selected={selected} />
      <NoteCurve note={note} curves={curves} tolerances={tolerances} />
      {causes.map((cause) => (
        <p key={cause.code} className="mt-3 border-l-2 border-ink pl-2 text-sm" data-testid="note-cause">
          <strong className="font-semibold">{cause.says}.</strong> {cause.because} {cause.tries?.[0]}
        </p>
      ))}
      <Heard
        hearing={hearing}
        student={measured.take.student}
        of={note.bend ? ["bend", "pitch"] : ["pitch", "bend"]}
      />
    </div>
  );
}

/** How a note counts, and how it was measured where a teacher said otherwise. */
function standing(note: SheetNote["note"]): string {
  const measured = note.measured?.find((m) => m.measure === "clean");
  const was = measured ? `, measured ${measured.verdict ? verdictWords(measured.verdict) : "missed"}` : "";
  if (note.said === "excluded") return `excluded${was}`;
  if (note.said === "meant") return `intentional${was}`;
  const now = note.status === "missed" ? "missed" : verdictWords(note.clean);
  return note.said === "verdict" ? `judged ${now}${was}` : now;
}

/** The uncertainty of what is said of the note first: of its onset or volume where that is the fault. */
function findingU(note: SheetNote["note"]): string {
  const faults = rhythmFaults(note);
  if (!faults.length || note.pitch?.verdict === "outside" || note.bend?.verdict === "outside")
    return plusMinus(uCents(note));
  return faults.length === 1 && note.timing?.verdict === "outside" ? plusMinus(note.timing.u) : "";
}

/** What the student can hear, beside what is asked. */
function Heard({ hearing, student, of }: { hearing: Hearing[]; student: string; of: string[] }) {
  const found = of.map((kind) => hearing.find((h) => h.kind === kind)).find(Boolean);
  if (!found) return null;
  return (
    <p className="mt-3 text-sm text-ink-soft" data-testid="hearing">
      By ear {student} tells {found.threshold.toFixed(0)}{" "}
      <span className="figures">{plusMinus(found.u, 0)}</span> cents apart{" "}
      {found.kind === "bend" ? "in a bend" : "between two notes"}.
    </p>
  );
}
