import { Check, ChevronDown } from "lucide-react";
import { Select as Radix } from "radix-ui";
import { useId } from "react";

export interface Choice {
  value: string;
  label: string;
}

export interface SelectProps {
  label: string;
  value: string;
  onChange: (value: string) => void;
  choices: Choice[];
  placeholder?: string;
}

export function Select({ label, value, onChange, choices, placeholder = "Choose" }: SelectProps) {
  const id = useId();
  return (
    <div className="flex flex-col gap-1">
      <label htmlFor={id} className="text-sm text-ink-soft">
        {label}
      </label>
      {/* An empty list cannot be chosen from, and choices that come later would not take the keys. */}
      <Radix.Root value={value} onValueChange={onChange} disabled={choices.length === 0}>
        <Radix.Trigger
          id={id}
          className="flex min-h-9 items-center justify-between gap-2 rounded-md border border-rule-strong bg-sheet px-3 text-left data-[disabled]:opacity-50 data-[placeholder]:text-ink-soft"
        >
          <Radix.Value placeholder={placeholder} />
          <Radix.Icon>
            <ChevronDown size={16} aria-hidden />
          </Radix.Icon>
        </Radix.Trigger>
        <Radix.Portal>
          <Radix.Content
            position="popper"
            sideOffset={4}
            className="z-50 max-h-80 w-[var(--radix-select-trigger-width)] overflow-auto rounded-md border border-rule-strong bg-sheet p-1 shadow-lg"
          >
            <Radix.Viewport>
              {choices.map((choice) => (
                <Radix.Item
                  key={choice.value}
                  value={choice.value}
                  className="flex min-h-9 items-center justify-between gap-2 rounded-sm px-2 data-[highlighted]:bg-corridor data-[highlighted]:outline-none"
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
