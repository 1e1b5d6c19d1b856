import { memo } from "react";
import type { DrillContent } from "~/api/client";
import { numberIn } from "~/lib/typed";
import { Field } from "~/ui/form/Field";
import { Select } from "~/ui/Select";

type Measure = DrillContent["measures"][number];

const MEASURES: { value: Measure; label: string }[] = [
  { value: "pitch", label: "pitch" },
  { value: "bend", label: "bends" },
  { value: "vibrato", label: "vibrato" },
  { value: "timing", label: "time" },
  { value: "level", label: "volume" },
  { value: "length", label: "length" },
  { value: "noise", label: "quiet" },
];
const PROFILES = ["starting", "steady", "exacting"].map((value) => ({ value, label: value }));
const SPEEDS = [
  { value: "tempo_steps", label: "small tempo steps" },
  { value: "notes_per_click", label: "more notes a click" },
  { value: "overlearn", label: "stay until effortless" },
];
const FORCES = [
  { value: "strong", label: "as loud as picked" },
  { value: "light", label: "light, even" },
];
const DAMPING = [
  { value: "both", label: "either hand" },
  { value: "fretting_hand", label: "the fretting hand first" },
  { value: "picking_hand", label: "the picking hand first" },
];
const RETURNS = [
  { value: "bottom", label: "from the note up" },
  { value: "top", label: "dips below, back up" },
  { value: "centre", label: "around the note" },
];

/** Limits of what may be typed, as the core has them. */
const NUMBERS = {
  bpm: { low: 20, high: 400 },
  beats_per_bar: { low: 1, high: 16 },
  count_in_beats: { low: 0, high: 32 },
  swing: { low: 0.5, high: 0.75 },
  repeats: { low: 1, high: 200 },
  capo: { low: 0, high: 12 },
};

/** Four to eight open strings from a text as "E4 B3 G3 D3 A2 E2", or null. */
export function tuningFrom(text: string): string[] | null {
  const pitches = text
    .trim()
    .split(/[\s,;]+/)
    .map((pitch) => pitch.charAt(0).toUpperCase() + pitch.slice(1));
  const fits =
    pitches.length >= 4 && pitches.length <= 8 && pitches.every((p) => /^[A-G][#b]?[0-6]$/.test(p));
  return fits ? pitches : null;
}

export interface DrillSettingsProps {
  drill: DrillContent;
  onChange: (make: (drill: DrillContent) => DrillContent) => void;
}

/** What counts for the whole drill. */
export const DrillSettings = memo(function DrillSettings({ drill, onChange }: DrillSettingsProps) {
  const tempo = drill.tempo;
  const number = (
    name: keyof typeof NUMBERS,
    label: string,
    now: number,
    set: (value: number) => void,
    unit = "",
  ) => (
    <Field
      key={`${name} ${now}`}
      label={label}
      unit={unit}
      inputMode="decimal"
      defaultValue={String(now)}
      onBlur={(event) => {
        const value = numberIn(event.target.value) ?? Number.NaN;
        const { low, high } = NUMBERS[name];
        const whole = name === "swing" || name === "bpm" || Number.isInteger(value);
        if (Number.isFinite(value) && value >= low && value <= high && whole && value !== now) set(value);
        else event.target.value = String(now);
      }}
    />
  );
  const setTempo = (part: Partial<NonNullable<typeof tempo>>) =>
    onChange((d) => (d.tempo ? { ...d, tempo: { ...d.tempo, ...part } } : d));
  const setSchool = (part: Partial<DrillContent["school"]>) =>
    onChange((d) => ({ ...d, school: { ...d.school, ...part } }));
  return (
    <div data-testid="settings">
      <div className="grid grid-cols-2 items-end gap-x-4 gap-y-3 sm:grid-cols-4 lg:grid-cols-3">
        {tempo && number("bpm", "Tempo", tempo.bpm, (bpm) => setTempo({ bpm }), "bpm")}
        {tempo &&
          number("beats_per_bar", "Beats in a bar", tempo.beats_per_bar, (n) =>
            setTempo({ beats_per_bar: n }),
          )}
        {tempo &&
          number(
            "count_in_beats",
            "Count-in",
            tempo.count_in_beats,
            (n) => setTempo({ count_in_beats: n }),
            "beats",
          )}
        {tempo && number("swing", "Swing", tempo.swing, (swing) => setTempo({ swing }), "of the beat")}
        {number("repeats", "Repeats", drill.repeats, (repeats) => onChange((d) => ({ ...d, repeats })))}
        {number("capo", "Capo", drill.capo, (capo) => onChange((d) => ({ ...d, capo })), "fret")}
        <Select
          label="Tolerances"
          value={drill.profile}
          onChange={(profile) => onChange((d) => ({ ...d, profile: profile as DrillContent["profile"] }))}
          choices={PROFILES}
        />
        <Select
          label="Speed is gained by"
          value={drill.school.speed}
          onChange={(speed) => setSchool({ speed: speed as "tempo_steps" })}
          choices={SPEEDS}
        />
        <Select
          label="Slurs"
          value={drill.school.slur_force}
          onChange={(force) => setSchool({ slur_force: force as "strong" })}
          choices={FORCES}
        />
        <Select
          label="Vibrato returns"
          value={drill.school.vibrato_return}
          onChange={(line) => setSchool({ vibrato_return: line as "bottom" })}
          choices={RETURNS}
        />
        <Select
          label="Strings kept quiet by"
          value={drill.school.damping}
          onChange={(hand) => setSchool({ damping: hand as "both" })}
          choices={DAMPING}
        />
        <Field
          key={drill.tuning.join(" ")}
          label="Tuning, string 1 first"
          className="col-span-2"
          defaultValue={drill.tuning.join(" ")}
          onBlur={(event) => {
            const tuning = tuningFrom(event.target.value);
            const strings = Math.max(1, ...drill.events.flatMap((e) => e.notes.map((n) => n.string)));
            if (!tuning || tuning.length < strings) event.target.value = drill.tuning.join(" ");
            else if (tuning.join(" ") !== drill.tuning.join(" ")) onChange((d) => ({ ...d, tuning }));
          }}
        />
        <label className="flex min-h-9 items-center gap-2 text-sm">
          <input
            type="checkbox"
            className="size-4 accent-ink"
            checked={tempo === null}
            onChange={(event) =>
              onChange((d) => ({
                ...d,
                tempo: event.target.checked
                  ? null
                  : { bpm: 60, beats_per_bar: 4, count_in_beats: 4, swing: 0.5 },
              }))
            }
          />
          free time, no click
        </label>
      </div>
      <fieldset className="mt-3">
        <legend className="text-sm text-ink-soft">Judged for</legend>
        <div className="flex flex-wrap gap-x-4">
          {MEASURES.map(({ value, label }) => (
            <label key={value} className="flex min-h-8 items-center gap-2 text-sm">
              <input
                type="checkbox"
                className="size-4 accent-ink"
                checked={drill.measures.includes(value)}
                disabled={drill.measures.length === 1 && drill.measures[0] === value}
                onChange={(event) =>
                  onChange((d) => ({
                    ...d,
                    measures: MEASURES.map((m) => m.value).filter((m) =>
                      m === value ? event.target.checked : d.measures.includes(m),
                    ),
                  }))
                }
              />
              {label}
            </label>
          ))}
        </div>
      </fieldset>
    </div>
  );
});
