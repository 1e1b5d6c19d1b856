/** What a short list to choose from and a long one have in common. */

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

export const TRIGGER =
  "flex min-h-9 items-center justify-between gap-2 rounded-md border border-rule-strong bg-sheet px-3 text-left data-[disabled]:opacity-50 data-[placeholder]:text-ink-soft";
export const LIST = "z-50 rounded-md border border-rule-strong bg-sheet p-1 shadow-lg";
export const OPTION = "flex min-h-9 items-center justify-between gap-2 rounded-sm px-2";
