import { Command } from "cmdk";
import { Check, ChevronDown } from "lucide-react";
import { Popover } from "radix-ui";
import { useId, useRef, useState } from "react";
import { holdsWords } from "~/lib/search";
import { cx } from "./cx";
import { LIST, OPTION, type SelectProps, TRIGGER } from "./selecting";

/** One of many, found by any words of its name. */
export function SelectLong({ label, value, onChange, choices, placeholder = "Choose" }: SelectProps) {
  const id = useId();
  const [open, setOpen] = useState(false);
  const list = useRef<HTMLDivElement>(null);
  const chosen = choices.find((choice) => choice.value === value);
  return (
    <div className="flex flex-col gap-1">
      <label htmlFor={id} className="text-sm text-ink-soft">
        {label}
      </label>
      {/* Modal, so that its list scrolls where a dialog holds the page still. */}
      <Popover.Root open={open} onOpenChange={setOpen} modal>
        <Popover.Trigger
          id={id}
          role="combobox"
          aria-haspopup="listbox"
          data-placeholder={chosen ? undefined : ""}
          onKeyDown={(event) => {
            if (event.key !== "ArrowDown" && event.key !== "ArrowUp") return;
            event.preventDefault();
            setOpen(true);
          }}
          className={TRIGGER}
        >
          <span>{chosen?.label ?? placeholder}</span>
          <ChevronDown size={16} className="shrink-0" aria-hidden />
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content
            sideOffset={4}
            align="start"
            collisionPadding={8}
            // Only once it lies where it is shown is there something to scroll.
            onOpenAutoFocus={() =>
              list.current?.querySelector("[data-selected=true]")?.scrollIntoView({ block: "center" })
            }
            className={cx(LIST, "w-[max(var(--radix-popover-trigger-width),min(24rem,94vw))]")}
          >
            <Command
              label={`Search: ${label}`}
              defaultValue={value}
              filter={(_, typed, names) => (holdsWords((names ?? []).join(" "), typed) ? 1 : 0)}
            >
              <Command.Input
                placeholder="Search"
                className="min-h-9 w-full border-b border-rule bg-transparent px-2 outline-none"
              />
              <Command.List
                ref={list}
                className="max-h-[min(20rem,calc(var(--radix-popover-content-available-height,23.5rem)-3.5rem))] scroll-py-1 overflow-auto pt-1"
              >
                <Command.Empty className="px-2 py-2 text-ink-soft">
                  Nothing here holds these words.
                </Command.Empty>
                {choices.map((choice) => (
                  <Command.Item
                    key={choice.value}
                    value={choice.value}
                    keywords={[choice.label]}
                    onSelect={() => {
                      onChange(choice.value);
                      setOpen(false);
                    }}
                    className={cx(OPTION, "py-1 data-[selected=true]:bg-corridor")}
                  >
                    <span>{choice.label}</span>
                    {choice.value === value && <Check size={16} className="shrink-0" aria-hidden />}
                  </Command.Item>
                ))}
              </Command.List>
            </Command>
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
    </div>
  );
}
