import { Slider as Radix } from "radix-ui";
import { useId } from "react";

export interface SliderProps {
  label: string;
  value: number;
  min: number;
  max: number;
  step: number;
  /** The value as it is said, with its unit. */
  said: string;
  onChange: (value: number) => void;
  disabled?: boolean;
}

/** A value to be set by hand: its name and what it is now stand above the line. */
export function Slider({ label, value, min, max, step, said, onChange, disabled }: SliderProps) {
  const id = useId();
  return (
    <div className={disabled ? "opacity-50" : ""}>
      <div className="flex items-baseline justify-between gap-3 text-sm">
        <span id={id} className="text-ink-soft">
          {label}
        </span>
        <span className="whitespace-nowrap tabular-nums">{said}</span>
      </div>
      <Radix.Root
        className="relative flex h-7 touch-none items-center"
        value={[value]}
        min={min}
        max={max}
        step={step}
        disabled={disabled ?? false}
        onValueChange={([next]) => next !== undefined && onChange(next)}
      >
        <Radix.Track className="relative h-px w-full bg-rule-strong">
          <Radix.Range className="absolute h-px bg-ink" />
        </Radix.Track>
        <Radix.Thumb
          aria-labelledby={id}
          aria-valuetext={said}
          className="block h-4 w-2 rounded-sm border border-ink bg-sheet hover:bg-corridor"
        />
      </Radix.Root>
    </div>
  );
}
