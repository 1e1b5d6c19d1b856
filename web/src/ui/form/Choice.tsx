import { RadioGroup } from "radix-ui";
import { useId } from "react";

/** One of a few, all in sight. */
export function Choice<Value extends string>({
  label,
  value,
  choices,
  onChange,
}: {
  label: string;
  value: Value | "";
  choices: readonly { value: Value; label: string }[];
  onChange: (value: Value) => void;
}) {
  const id = useId();
  return (
    <RadioGroup.Root
      aria-labelledby={`${id} label`}
      value={value}
      onValueChange={(chosen) => onChange(chosen as Value)}
      className="grid gap-1"
    >
      <span id={`${id} label`} className="text-sm text-ink-soft">
        {label}
      </span>
      {choices.map((choice) => (
        <div key={choice.value} className="flex min-h-9 items-center gap-2">
          <RadioGroup.Item
            id={`${id} ${choice.value}`}
            value={choice.value}
            className="size-5 shrink-0 rounded-full border border-rule-strong bg-sheet"
          >
            <RadioGroup.Indicator className="m-auto block size-2.5 rounded-full bg-ink" />
          </RadioGroup.Item>
          <label htmlFor={`${id} ${choice.value}`}>{choice.label}</label>
        </div>
      ))}
    </RadioGroup.Root>
  );
}
