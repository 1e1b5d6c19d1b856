import { cx } from "~/ui/cx";

export interface TickProps {
  label: string;
  checked: boolean;
  onChange: (on: boolean) => void;
  className?: string;
  disabled?: boolean;
}

/** On or off. */
export function Tick({ label, checked, onChange, className, disabled = false }: TickProps) {
  return (
    <label className={cx("flex items-center gap-2 text-sm", className)}>
      <input
        type="checkbox"
        className="size-4 accent-ink"
        checked={checked}
        disabled={disabled}
        onChange={(event) => onChange(event.target.checked)}
      />
      {label}
    </label>
  );
}
