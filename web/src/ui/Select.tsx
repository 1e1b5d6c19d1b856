import { Check, ChevronDown } from "lucide-react";
import { Select as Radix } from "radix-ui";
import { useId } from "react";
import { cx } from "./cx";
import { SelectLong } from "./SelectLong";
import { LIST, OPTION, type SelectProps, TRIGGER } from "./selecting";

/** More than can be looked through at a glance are searched. */
const MANY = 20;

/** One of several, by pointer or by keyboard. */
export function Select(props: SelectProps) {
  return props.choices.length > MANY ? <SelectLong {...props} /> : <SelectShort {...props} />;
}

function SelectShort({ label, value, onChange, choices, placeholder = "Choose" }: SelectProps) {
  const id = useId();
  return (
    <div className="flex flex-col gap-1">
      <label htmlFor={id} className="text-sm text-ink-soft">
        {label}
      </label>
      {/* An empty list cannot be chosen from, and choices that come later would not take the keys. */}
      <Radix.Root value={value} onValueChange={onChange} disabled={choices.length === 0}>
        <Radix.Trigger id={id} className={TRIGGER}>
          <Radix.Value placeholder={placeholder} />
          <Radix.Icon>
            <ChevronDown size={16} aria-hidden />
          </Radix.Icon>
        </Radix.Trigger>
        <Radix.Portal>
          <Radix.Content
            position="popper"
            sideOffset={4}
            className={cx(LIST, "max-h-80 w-[var(--radix-select-trigger-width)] overflow-auto")}
          >
            <Radix.Viewport>
              {choices.map((choice) => (
                <Radix.Item
                  key={choice.value}
                  value={choice.value}
                  className={cx(OPTION, "data-[highlighted]:bg-corridor data-[highlighted]:outline-none")}
                >
                  <Radix.ItemText>{choice.label}</Radix.ItemText>
                  <Radix.ItemIndicator>
                    <Check size={16} aria-hidden />
                  </Radix.ItemIndicator>
                </Radix.Item>
              ))}
            </Radix.Viewport>
          </Radix.Content>
        </Radix.Portal>
      </Radix.Root>
    </div>
  );
}
