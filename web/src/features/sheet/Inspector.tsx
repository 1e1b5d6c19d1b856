import type { Curves, Hearing } from "~/api/client";
import { plusMinus, signed, verdictWords } from "~/lib/words";
import { cx } from "~/ui/cx";
import {
  findingWords,
  markOf,
  noteWords,
  placeWords,
  type SheetNote,
  type Tolerances,
  uCents,
} from "~/ui/take/notes.math";
import { NoteCurve } from "./NoteCurve";
import { Transport } from "./Transport";
import type { Listening } from "./useListening";

export interface InspectorProps {
  selected: SheetNote;
  tolerances: Tolerances;
  curves: Curves;
  sentences: Record<string, string>;
  hearing: Hearing[];
  student: string;
  listening: Listening;
  ready: boolean;
  onHelp: () => void;
}

/** The selected note: finding, sound, curve, every value with its uncertainty and tolerance. */
export function Inspector({
  selected,
  tolerances,
  curves,
  sentences,
  hearing,
  student,
  listening,
  ready,
  onHelp,
}: InspectorProps) {
  const { note } = selected;
  const mark = markOf(note);
  return (
    <div className="border-t-2 border-ink pt-3" data-testid="inspector">
      <p className="text-sm text-ink-soft">
        {noteWords(selected)}, {placeWords(note)}, repeat {note.repeat + 1}
      </p>
      <p
        className={cx(
          "mt-1 text-2xl leading-7 font-bold",
          mark === "under" && "text-under",
          mark === "over" && "text-over",
        )}
        data-testid="finding"
        aria-live="polite"
      >
        {findingWords(note)}{" "}
        <span className="figures text-base font-normal text-ink-soft">{plusMinus(uCents(note))}</span>
      </p>
      <p className="mb-3 text-sm">
        {note.status === "missed" ? "missed" : verdictWords(note.clean)}
        {note.reasons.map((code) => (
          <span key={code} className="block text-ink-soft">
            {sentences[code] ?? code}
          </span>
        ))}
      </p>
      <Transport listening={listening} ready={ready} onHelp={onHelp} />
      <NoteCurve note={note} curves={curves} tolerances={tolerances} />
      {note.bend ? (
        <BendValues selected={selected} tolerances={tolerances} />
      ) : (
        <PitchValues selected={selected} tolerances={tolerances} />
      )}
      <Heard hearing={hearing} student={student} of={note.bend ? ["bend", "pitch"] : ["pitch", "bend"]} />
    </div>
  );
}

function BendValues({ selected, tolerances }: { selected: SheetNote; tolerances: Tolerances }) {
  const bend = selected.note.bend;
  if (!bend) return null;
  const target = bend.target_cents;
  const asked = Array.isArray(target) ? `${target[0]} to ${target[1]}` : String(target);
  return (
    <table className="mt-3 w-full text-sm">
      <tbody>
        <Value label="Asked" value={asked} unit="cents" />
        <Value label="Starts at" value={number(bend.start_cents)} unit="cents" />
        <Value label="Reached" value={number(bend.reached_cents)} u={bend.u} unit="cents" />
        <Value
          label="Error"
          value={bend.error_cents === null ? null : signed(bend.error_cents)}
          u={bend.u}
          unit="cents"
          tolerance={`± ${tolerances.bendError}`}
        />
        <Value
          label="… to equal temperament"
          value={bend.error_tempered_cents == null ? null : signed(bend.error_tempered_cents)}
          unit="cents"
        />
        <Value label="Rise, 10–90 %" value={number(bend.rise_ms, 0)} unit="ms" />
        <Value label="Overshoot" value={number(bend.overshoot_cents)} unit="cents" />
        <Value
          label="Hold, SD"
          value={number(bend.hold_sd_cents)}
          unit="cents"
          tolerance={`up to ${tolerances.holdSd}`}
        />
        <Value
          label="Hold, drift"
          value={bend.hold_drift_cents_per_s === null ? null : signed(bend.hold_drift_cents_per_s)}
          unit="cents/s"
        />
        <Value label="Choked" value={bend.choked === null ? null : bend.choked ? "yes" : "no"} unit="" />
        <Value label="Reference" value={bend.reference_hz?.toFixed(2) ?? null} unit="Hz" />
        <tr>
          <td colSpan={3} className="pt-1 text-ink-soft" data-testid="reference">
            {referenceWords(bend.reference_source)}
          </td>
        </tr>
      </tbody>
    </table>
  );
}

function PitchValues({ selected, tolerances }: { selected: SheetNote; tolerances: Tolerances }) {
  const pitch = selected.note.pitch;
  if (!pitch) return null;
  return (
    <table className="mt-3 w-full text-sm">
      <tbody>
        <Value label="Pitch" value={pitch.median_hz?.toFixed(2) ?? null} unit="Hz" />
        <Value
          label="Error"
          value={pitch.error_cents === null ? null : signed(pitch.error_cents)}
          u={pitch.u}
          unit="cents"
          tolerance={`± ${tolerances.plainPitch}`}
        />
      </tbody>
    </table>
  );
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

function referenceWords(source: string): string {
  if (source === "temperament") return "Against equal temperament.";
  return `Against this student's own fretted note “${source}” in this take.`;
}

function number(value: number | null, digits = 1): string | null {
  return value === null ? null : value.toFixed(digits).replace("-", "−");
}

interface ValueProps {
  label: string;
  value: string | null;
  u?: number | null;
  unit: string;
  tolerance?: string;
}

function Value({ label, value, u, unit, tolerance }: ValueProps) {
  return (
    <tr className="border-b border-rule">
      <th scope="row" className="py-1 pr-2 text-left font-normal text-ink-soft">
        {label}
      </th>
      <td className="figures py-1 text-right whitespace-nowrap">
        {value ?? "–"} {value !== null && plusMinus(u)}
      </td>
      <td className="py-1 pl-2 text-xs text-ink-soft">
        {value !== null && unit}
        {tolerance && <span className="figures block">{tolerance}</span>}
      </td>
    </tr>
  );
}
