import type { FormInput } from "~/api/client";
import { Select } from "../Select";
import { Field } from "./Field";

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
