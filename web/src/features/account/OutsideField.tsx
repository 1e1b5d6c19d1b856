import type { InputHTMLAttributes } from "react";

/** A field of a page outside the app: large, and known to the browser's keeper of passwords. */
export function OutsideField({
  label,
  value,
  onText,
  ...rest
}: Omit<InputHTMLAttributes<HTMLInputElement>, "onChange" | "value"> & {
  label: string;
  value: string;
  onText: (text: string) => void;
}) {
  return (
    <label className="flex flex-col gap-1 text-sm">
      {label}
      <input
        className="min-h-10 rounded-md border border-rule-strong bg-sheet px-3"
        required
        value={value}
        onChange={(event) => onText(event.target.value)}
        {...rest}
      />
    </label>
  );
}
