import { type InputHTMLAttributes, useId } from "react";
import { cx } from "../cx";

export interface FieldProps extends Omit<InputHTMLAttributes<HTMLInputElement>, "onChange" | "value"> {
  label: string;
  /** Left out, the field keeps its own text from `defaultValue` on. */
  value?: string;
  onText?: (text: string) => void;
  unit?: string | undefined;
  hideLabel?: boolean;
  /** Words instead of figures. */
  words?: boolean;
}

/** A labelled line of text or number; the unit stands behind it. */
export function Field({ label, value, onText, unit, hideLabel, words, className, ...rest }: FieldProps) {
  const id = useId();
  return (
    <div className={cx("flex flex-col gap-1", className)}>
      <label htmlFor={id} className={hideLabel ? "sr-only" : "text-sm text-ink-soft"}>
        {label}
      </label>
      <span className="flex items-center gap-2">
        <input
          id={id}
          className={cx(
            "min-h-9 w-full min-w-0 rounded-md border border-rule-strong bg-sheet px-2 text-ink",
            words ? "" : "figures",
          )}
          {...(value === undefined ? {} : { value })}
          autoComplete="off"
          onChange={(event) => onText?.(event.target.value)}
          {...rest}
        />
        {unit && <span className="text-sm whitespace-nowrap text-ink-soft">{unit}</span>}
      </span>
    </div>
  );
}
