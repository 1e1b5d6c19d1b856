import type { ReactNode } from "react";
import type { Note, VibratoAsked } from "~/api/client";
import { plusMinus, signed } from "~/lib/words";
import type { Tolerances } from "~/ui/take/notes.math";

type BendFound = NonNullable<Note["bend"]>;
type PitchFound = NonNullable<Note["pitch"]>;
type VibratoFound = NonNullable<Note["vibrato"]>;

/** Every value of a bend, by its kind. */
export function BendValues({ bend, tolerances }: { bend: BendFound; tolerances: Tolerances }) {
  const target = bend.target_cents;
  const asked = Array.isArray(target) ? `${target[0]} to ${target[1]}` : String(target);
  const released = bend.kind === "prebend" || bend.kind === "release";
  return (
    <Values>
      <Value label="Asked" value={asked} unit="cents" />
      <Value label="Starts at" value={number(bend.start_cents)} u={released ? bend.u : null} unit="cents" />
      {bend.kind === "unison" ? (
        <UnisonValues bend={bend} tolerances={tolerances} />
      ) : (
        <>
          <Value
            label={bend.kind === "curl" ? "Peak" : "Reached"}
            value={number(bend.reached_cents)}
            u={bend.u}
            unit="cents"
          />
          <Value
            label={released ? "Error of the start" : "Error"}
            value={plain(bend.error_cents)}
            u={bend.u}
            unit="cents"
            tolerance={Array.isArray(target) ? undefined : `± ${tolerances.bendError}`}
          />
          <Value
            label="… to equal temperament"
            value={plain(bend.error_tempered_cents ?? null)}
            unit="cents"
          />
          <Value
            label={released ? "Release, 10–90 %" : "Rise, 10–90 %"}
            value={number(bend.rise_ms, 0)}
            unit="ms"
          />
        </>
      )}
      {released && (
        <Value
          label="Landing"
          value={plain(bend.landing_error_cents)}
          u={bend.u_landing}
          unit="cents"
          tolerance={`± ${tolerances.bendError}`}
        />
      )}
      {bend.kind === "bend" && (
        <>
          <Value label="Overshoot" value={number(bend.overshoot_cents)} unit="cents" />
          <Value
            label="Hold, SD"
            value={number(bend.hold_sd_cents)}
            unit="cents"
            tolerance={`up to ${tolerances.holdSd}`}
          />
          <Value label="Hold, drift" value={plain(bend.hold_drift_cents_per_s)} unit="cents/s" />
          <Value label="Choked" value={bend.choked === null ? null : bend.choked ? "yes" : "no"} unit="" />
        </>
      )}
      <Value label="Reference" value={bend.reference_hz?.toFixed(2) ?? null} unit="Hz" />
      <tr>
        <td colSpan={3} className="pt-1 text-ink-soft" data-testid="reference">
          {referenceWords(bend.reference_source)}
        </td>
      </tr>
    </Values>
  );
}

function UnisonValues({ bend, tolerances }: { bend: BendFound; tolerances: Tolerances }) {
  return (
    <>
      <Value label="Difference" value={plain(bend.difference_cents)} u={bend.u} unit="cents" />
      <Value
        label="Beating"
        value={number(bend.beat_hz, 2)}
        u={bend.u_beat}
        unit="Hz"
        tolerance={`up to ${tolerances.beatHz}`}
      />
      <Value label="Together after" value={number(bend.merge_ms, 0)} unit="ms" />
    </>
  );
}

export function PitchValues({ pitch, tolerances }: { pitch: PitchFound; tolerances: Tolerances }) {
  return (
    <Values>
      <Value label="Pitch" value={pitch.median_hz?.toFixed(2) ?? null} unit="Hz" />
      <Value
        label="Error"
        value={plain(pitch.error_cents)}
        u={pitch.u}
        unit="cents"
        tolerance={pitch.verdict === null ? undefined : `± ${tolerances.plainPitch}`}
      />
    </Values>
  );
}

/** Onset, volume and length of a note, as far as the drill asks for them. */
export function RhythmValues({ note, tolerances }: { note: Note; tolerances: Tolerances }) {
  const { timing, level, length } = note;
  if (!timing && !level && !length) return null;
  const accent = level?.way === "accented";
  const soft = level?.against === "picked" ? Math.max(tolerances.levelDb, tolerances.slurDeficitDb) : null;
  return (
    <Values title="Time and touch">
      {timing && (
        <Value
          label="Onset"
          value={plain(timing.error_ms)}
          u={timing.u}
          unit="ms"
          tolerance={timing.limit_ms == null ? undefined : `± ${timing.limit_ms.toFixed(0)}`}
        />
      )}
      {level && (
        <>
          <Value label="Volume" value={plain(level.level_db)} unit="dB" />
          <Value
            label={AGAINST[level.against ?? "none"] ?? ""}
            value={plain(level.deviation_db)}
            u={level.u}
            unit="dB"
            tolerance={
              accent
                ? `at least +${tolerances.accentLiftDb}`
                : soft !== null && soft !== tolerances.levelDb
                  ? `−${soft} to +${tolerances.levelDb}`
                  : `± ${tolerances.levelDb}`
            }
          />
        </>
      )}
      {length && (
        <>
          <Value
            label="Length, of its slot"
            value={percent(length.length_ratio)}
            unit="%"
            tolerance={`± ${percent(tolerances.lengthFraction)}`}
          />
          {length.overlap_ms != null && (
            <Value
              label="Under the next note"
              value={number(length.overlap_ms, 0)}
              u={length.u_overlap_ms}
              digits={0}
              unit="ms"
              tolerance={`up to ${tolerances.overlapMs}`}
            />
          )}
        </>
      )}
    </Values>
  );
}

/** What rings under a note, what is left after its stop, and how it stands in its chord. */
export function NoiseValues({ note, tolerances }: { note: Note; tolerances: Tolerances }) {
  const { noise, chord } = note;
  if (!noise && !chord) return null;
  const hidden = noise?.hidden_strings ?? [];
  return (
    <Values title="Quiet">
      {noise && (
        <>
          <Value
            label={noise.string === null ? "Other strings" : `String ${noise.string} rings at`}
            value={noise.worst_ring_db === null ? "none heard" : plain(noise.worst_ring_db)}
            u={noise.u}
            unit={noise.worst_ring_db === null ? "" : "dB"}
            tolerance={`up to ${tolerances.ringDb.toString().replace("-", "−")}`}
          />
          <Value
            label="Heard from"
            value={noise.floor_db == null || noise.floor_db >= 0 ? null : signed(noise.floor_db, 0)}
            unit="dB"
          />
          {noise.decay_ms != null && (
            <Value
              label="Silent after the stop"
              value={number(noise.decay_ms, 0)}
              u={noise.u_decay}
              digits={0}
              unit="ms"
              tolerance={`up to ${tolerances.stopMs}`}
            />
          )}
          {hidden.length > 0 && (
            <tr>
              <td colSpan={3} className="pt-1 text-ink-soft">
                Covered by this note: string{hidden.length > 1 ? "s" : ""} {hidden.join(", ")}.
              </td>
            </tr>
          )}
        </>
      )}
      {chord && (
        <>
          <Value
            label="In its chord"
            value={chord.present === null ? null : chord.present ? "heard" : "not heard"}
            unit=""
          />
          <Value
            label="… to its string's usual share"
            value={plain(chord.balance_db)}
            u={chord.balance_db === null ? null : chord.u}
            unit="dB"
            tolerance={`± ${tolerances.levelDb}`}
          />
        </>
      )}
    </Values>
  );
}

const AGAINST: Record<string, string> = {
  string: "… to its string's others",
  picked: "… to its string's picked notes",
  take: "… to the take's others",
  neighbours: "… to the notes around it",
  none: "… to others like it",
};

/** Rate and width are the player's voice: they have a tolerance only where the drill asks for one. */
export function VibratoValues({
  vibrato,
  asked,
  tolerances,
}: {
  vibrato: VibratoFound;
  asked: VibratoAsked | null;
  tolerances: Tolerances;
}) {
  const corridor = (range: readonly number[] | null | undefined) =>
    range ? `${range[0]} to ${range[1]}` : undefined;
  return (
    <Values title="Vibrato">
      <Value
        label="Rate"
        value={number(vibrato.rate_hz, 2)}
        u={vibrato.u_rate}
        digits={3}
        unit="Hz"
        tolerance={corridor(asked?.rate_hz)}
      />
      <Value
        label={`Width${vibrato.shape ? ` (${vibrato.shape})` : ""}`}
        value={number(vibrato.extent_cents)}
        u={vibrato.u_extent}
        unit="cents"
        tolerance={corridor(asked?.extent_cents)}
      />
      <Value
        label={`Comes back (${asked?.return ?? "line"})`}
        value={plain(vibrato.return_error_cents)}
        u={vibrato.u_return}
        unit="cents"
        tolerance={`± ${tolerances.vibratoReturn}`}
      />
      <Value label="… SD" value={number(vibrato.return_sd_cents)} unit="cents" />
      <Value
        label="Uneven in time"
        value={percent(vibrato.rate_cv)}
        unit="%"
        tolerance={`up to ${percent(tolerances.rateCv)}`}
      />
      <Value
        label="Uneven in width"
        value={percent(vibrato.extent_cv)}
        unit="%"
        tolerance={`up to ${percent(tolerances.extentCv)}`}
      />
      <Value label="Cycles" value={String(vibrato.cycles)} unit="" />
      <Value label="Fade beyond the string's own" value={plain(vibrato.fade_db_per_s)} unit="dB/s" />
    </Values>
  );
}

function referenceWords(source: string): string {
  const words: Record<string, string> = {
    temperament: "Against equal temperament.",
    "set-up": "Against the tuning of the guitar’s set-up take.",
    "other takes": "Against the same fretted note in other takes on this guitar.",
    "steady string": "Against the string that is not bent.",
  };
  return words[source] ?? `Against this student's own fretted note “${source}” in this take.`;
}

function number(value: number | null | undefined, digits = 1): string | null {
  return value === null || value === undefined ? null : value.toFixed(digits).replace("-", "−");
}

function plain(value: number | null): string | null {
  return value === null ? null : signed(value);
}

function percent(share: number | null): string | null {
  return share === null ? null : (100 * share).toFixed(0);
}

function Values({ title, children }: { title?: string; children: ReactNode }) {
  return (
    <table className="mt-3 w-full text-sm">
      {title && <caption className="pb-1 text-left font-semibold">{title}</caption>}
      <tbody>{children}</tbody>
    </table>
  );
}

interface ValueProps {
  label: string;
  value: string | null;
  u?: number | null | undefined;
  digits?: number;
  unit: string;
  tolerance?: string | undefined;
}

function Value({ label, value, u, digits = 1, unit, tolerance }: ValueProps) {
  return (
    <tr className="border-b border-rule">
      <th scope="row" className="py-1 pr-2 text-left font-normal text-ink-soft">
        {label}
      </th>
      <td className="figures py-1 text-right whitespace-nowrap">
        {value ?? "–"} {value !== null && plusMinus(u, digits)}
      </td>
      <td className="py-1 pl-2 text-xs text-ink-soft">
        {value !== null && unit}
        {tolerance && <span className="figures block">{tolerance}</span>}
      </td>
    </tr>
  );
}
