import type { FormInput } from "~/api/client";
import { Field } from "~/ui/form/Field";
import { Select } from "~/ui/Select";

const NONE = "none";
/** What the address holds of a set; `set` is no field of any form. */
export const NO_SET = { "set-field": NONE, "set-values": "5-12", "set-field-2": NONE, "set-values-2": "1-4" };

/** The fields that go through values, the outer one first. */
export function variedOf(fields: Record<string, string>): { field: string; values: string }[] {
  return [
    { field: fields["set-field-2"] ?? NONE, values: fields["set-values-2"] ?? "" },
    { field: fields["set-field"] ?? NONE, values: fields["set-values"] ?? "" },
  ].filter(({ field }) => field !== NONE);
}

export interface SetFieldsProps {
  inputs: FormInput[];
  fields: Record<string, string>;
  onChange: (part: Record<string, string>) => void;
}

const NOT_VARIED = new Set(["bpm", "repeats", "profile", "judged"]);

/** A set instead of one drill: a field or two go through values, and everything is recorded and judged in one take. */
export function SetFields({ inputs, fields, onChange }: SetFieldsProps) {
  const choices = [
    { value: NONE, label: "one drill, no set" },
    ...inputs.filter((i) => !NOT_VARIED.has(i.name)).map((i) => ({ value: i.name, label: i.label })),
  ];
  const first = fields["set-field"] ?? NONE;
  const second = fields["set-field-2"] ?? NONE;
  return (
    <fieldset
      className="mt-4 grid grid-cols-2 items-end gap-x-4 gap-y-3 sm:grid-cols-4"
      data-testid="set-fields"
    >
      <legend className="sr-only">Set</legend>
      <Select
        label="A set that changes"
        value={first}
        onChange={(name) =>
          onChange({ "set-field": name, ...(name === NONE ? { "set-field-2": NONE } : {}) })
        }
        choices={choices}
      />
      {first !== NONE && (
        <>
          <Field
            label="through, as 5-12 or A, C, D"
            words
            value={fields["set-values"] ?? ""}
            onText={(text) => onChange({ "set-values": text })}
          />
          <Select
            label="for each"
            value={second}
            onChange={(name) => onChange({ "set-field-2": name })}
            choices={[
              { value: NONE, label: "nothing more" },
              ...choices.filter(({ value }) => value !== NONE && value !== first),
            ]}
          />
          {second !== NONE && (
            <Field
              label="through"
              words
              value={fields["set-values-2"] ?? ""}
              onText={(text) => onChange({ "set-values-2": text })}
            />
          )}
        </>
      )}
    </fieldset>
  );
}
