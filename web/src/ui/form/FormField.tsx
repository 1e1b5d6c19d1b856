import type { FormInput } from "~/api/client";
import { Select } from "../Select";
import { Field } from "./Field";
import { Tick } from "./Tick";

/** One field of a form that describes itself. */
export function FormField({
  input,
  value,
  onText,
}: {
  input: FormInput;
  value: string;
  onText: (text: string) => void;
}) {
  if (input.many) {
    const chosen = value.split(" ").filter(Boolean);
    return (
      <fieldset className="col-span-full">
        <legend className="mb-1 text-sm text-ink-soft">{input.label}</legend>
        <div className="flex flex-wrap gap-x-4 gap-y-1">
          {input.choices.map((choice) => (
            <Tick
              key={choice}
              label={choice}
              checked={chosen.includes(choice)}
              onChange={(on) =>
                onText(input.choices.filter((c) => (c === choice ? on : chosen.includes(c))).join(" "))
              }
            />
          ))}
        </div>
      </fieldset>
    );
  }
  if (input.choices.length > 0) {
    return (
      <Select
        label={input.label}
        value={value}
        onChange={onText}
        choices={input.choices.map((choice) => ({ value: choice, label: choice }))}
      />
    );
  }
  return <Field label={input.label} unit={input.unit} value={value} onText={onText} name={input.name} />;
}

/** The defaults of a form, as text. */
export function defaultsOf(inputs: FormInput[]): Record<string, string> {
  return Object.fromEntries(inputs.map((input) => [input.name, String(input.default)]));
}
