import { Field } from "~/ui/form/Field";
import { rangeFrom } from "./event.math";

/** Two numbers, or none: what is not asked may be anything. */
export function Range({
  label,
  unit,
  value,
  onRange,
}: {
  label: string;
  unit: string;
  value: readonly number[] | null;
  onRange: (range: [number, number] | null) => void;
}) {
  return (
    <Field
      label={label}
      unit={unit}
      defaultValue={value ? value.join("–") : ""}
      placeholder="any"
      onBlur={(event) => {
        const range = rangeFrom(event.target.value);
        if (String(range) !== String(value)) onRange(range);
      }}
    />
  );
}
