import type { Assignment } from "~/api/week";
import { DayField } from "~/ui/form/DayField";
import { Field } from "~/ui/form/Field";
import { Select } from "~/ui/Select";
import { fieldsFor, NO_PAIR, SPEEDS, type Speed, type TermFields } from "./terms.math";

/** Dose, ladder and goal of an assignment. */
export function TermsForm({
  fields,
  onChange,
  free,
  others,
  begins,
}: {
  fields: TermFields;
  onChange: (part: Partial<TermFields>) => void;
  /** Without a click there is no ladder. */
  free: boolean;
  others: Assignment[];
  /** Whether it is said where it begins; later the ladder says where it stands. */
  begins: boolean;
}) {
  const bind = (name: keyof TermFields) => ({
    value: fields[name],
    onText: (text: string) => onChange({ [name]: text }),
  });
  const perClick = fields.speed === "notes_per_click";
  return (
    <div className="flex flex-col gap-4">
      <div className="grid grid-cols-2 gap-3 sm:grid-cols-4">
        <Field label="A day" unit="min" inputMode="decimal" {...bind("minutes")} />
        <Field label="Days a week" inputMode="numeric" {...bind("days")} />
        <DayField label="Until (empty: the goal)" value={fields.ends} onDay={(ends) => onChange({ ends })} />
        <Select
          label="Steps"
          value={fields.moves}
          onChange={(moves) => onChange({ moves: moves as TermFields["moves"] })}
          choices={[
            { value: "confirmed", label: "I confirm them" },
            { value: "automatic", label: "by the rule alone" },
          ]}
        />
      </div>
      {!free && (
        <>
          <div className="grid grid-cols-2 gap-3 sm:grid-cols-4">
            <div className="col-span-2">
              <Select
                label="How speed is gained"
                value={fields.speed}
                onChange={(value) => {
                  const speed = value as Speed;
                  const { cleanTakes, perClick: n } = fieldsFor(null, speed);
                  onChange({ speed, cleanTakes, perClick: n });
                }}
                choices={SPEEDS}
              />
            </div>
            {begins && <Field label="Begins at" unit="bpm" inputMode="decimal" {...bind("bpm")} />}
            {begins && perClick && (
              <Field label="Notes to a click" inputMode="numeric" {...bind("perClick")} />
            )}
            <Field label="Goal (may be left out)" unit="bpm" inputMode="decimal" {...bind("goalBpm")} />
            {perClick && (
              <Field label="Goal, notes to a click" inputMode="numeric" {...bind("goalPerClick")} />
            )}
          </div>
          <details>
            <summary className="cursor-pointer text-sm text-ink-soft">
              Up after {fields.cleanTakes} clean takes in a row, down after {fields.downTakes} under{" "}
              {fields.downPercent} %{!perClick && `, by ${fields.tempoStep} bpm`}
            </summary>
            <div className="mt-3 grid grid-cols-2 gap-3 sm:grid-cols-5">
              <Field label="Clean takes to go up" inputMode="numeric" {...bind("cleanTakes")} />
              <Field label="A take is clean from" unit="%" inputMode="decimal" {...bind("cleanPercent")} />
              <Field label="Takes to go down" inputMode="numeric" {...bind("downTakes")} />
              <Field label="each under" unit="%" inputMode="decimal" {...bind("downPercent")} />
              {perClick ? (
                <Field label="Notes to a click" {...bind("subdivisions")} />
              ) : (
                <Field label="Step" unit="bpm" inputMode="decimal" {...bind("tempoStep")} />
              )}
              <Field
                label="Picked: at most, of the fastest even run"
                className="col-span-2"
                unit="%"
                inputMode="decimal"
                {...bind("ceilingPercent")}
              />
            </div>
          </details>
        </>
      )}
      <div className="grid gap-3 sm:grid-cols-2">
        {others.length > 0 && (
          <Select
            label="Pair with (up and down, picked and slurred)"
            value={fields.pairId}
            onChange={(pairId) => onChange({ pairId })}
            choices={[
              { value: NO_PAIR, label: "no pair" },
              ...others.map((a) => ({ value: String(a.id), label: a.drill })),
            ]}
          />
        )}
        {fields.pairId !== NO_PAIR && (
          <Select
            label="The pair’s minutes"
            value={fields.sharing}
            onChange={(sharing) => onChange({ sharing: sharing as TermFields["sharing"] })}
            choices={[
              { value: "weaker", label: "more for the weaker one" },
              { value: "equal", label: "in equal parts" },
            ]}
          />
        )}
        <Field
          label="A word for the student"
          words
          className="sm:col-span-2"
          maxLength={500}
          {...bind("note")}
        />
      </div>
    </div>
  );
}
