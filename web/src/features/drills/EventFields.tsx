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

/** On or off. */
export function Tick({
  label,
  checked,
  onChange,
}: {
  label: string;
  checked: boolean;
  onChange: (on: boolean) => void;
}) {
  return (
    <label className="flex items-center gap-2 text-sm">
      <input
        type="checkbox"
        className="size-4 accent-ink"
        checked={checked}
        onChange={(event) => onChange(event.target.checked)}
      />
      {label}
    </label>
  );
}
