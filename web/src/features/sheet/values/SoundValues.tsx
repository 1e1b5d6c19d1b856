import type { Note } from "~/api/client";
import { signed } from "~/lib/words";
import type { Tolerances } from "~/ui/take/notes.math";

import { number, percent, plain, Value, Values } from "./Value";

const AGAINST: Record<string, string> = {
  string: "… to its string's others",
  picked: "… to its string's picked notes",
  take: "… to the take's others",
  neighbours: "… to the notes around it",
  none: "… to others like it",
};

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
          about="onset"
          value={plain(timing.error_ms)}
          u={timing.u}
          unit="ms"
          tolerance={timing.limit_ms == null ? "" : `± ${timing.limit_ms.toFixed(0)}`}
          decides="timing"
        />
      )}
      {level && (
        <>
          <Value label="Volume" value={plain(level.level_db)} unit="dB" />
          <Value
            label={AGAINST[level.against ?? "none"] ?? ""}
            about="level"
            value={plain(level.deviation_db)}
            u={level.u}
            up={level.u_louder}
            unit="dB"
            tolerance={
              accent
                ? `at least +${tolerances.accentLiftDb}`
                : soft !== null && soft !== tolerances.levelDb
                  ? `−${soft} to +${tolerances.levelDb}`
                  : `± ${tolerances.levelDb}`
            }
            decides="level"
          />
        </>
      )}
      {length && (
        <>
          <Value
            label="Length, of its slot"
            about="length"
            value={percent(length.length_ratio)}
            unit="%"
            tolerance={`± ${percent(tolerances.lengthFraction)}`}
            decides="length"
          />
          {length.overlap_ms != null && (
            <Value
              label="Under the next note"
              about="overlap"
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
  // Where nothing rings, it is the stop that decides.
  const stops = noise?.decay_ms != null && noise.worst_ring_db === null;
  return (
    <Values title="Quiet">
      {noise && (
        <>
          <Value
            label={noise.string === null ? "Other strings" : `String ${noise.string} rings at`}
            about="ring"
            value={noise.worst_ring_db === null ? "none heard" : plain(noise.worst_ring_db)}
            u={noise.u}
            unit={noise.worst_ring_db === null ? "" : "dB"}
            tolerance={`up to ${tolerances.ringDb.toString().replace("-", "−")}`}
            {...(stops ? {} : { decides: "noise" as const })}
          />
          <Value
            label="Heard from"
            about="ring"
            value={noise.floor_db == null || noise.floor_db >= 0 ? null : signed(noise.floor_db, 0)}
            unit="dB"
          />
          {noise.decay_ms != null && (
            <Value
              label="Silent after the stop"
              about="stop"
              value={number(noise.decay_ms, 0)}
              u={noise.u_decay}
              digits={0}
              unit="ms"
              tolerance={`up to ${tolerances.stopMs}`}
              {...(stops ? { decides: "noise" as const } : {})}
            />
          )}
          {hidden.length > 0 && (
            <tr>
              <td colSpan={4} className="pt-1 text-ink-soft">
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
            about="chord"
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
