import type { ButtonHTMLAttributes } from "react";
import { cx } from "./cx";

type Kind = "plain" | "strong" | "quiet";

const KINDS: Record<Kind, string> = {
  plain: "border border-rule-strong bg-sheet hover:border-ink aria-pressed:bg-ink aria-pressed:text-paper",
  strong: "border border-ink bg-ink text-paper hover:opacity-85",
  quiet: "border border-transparent hover:border-rule-strong",
};

export function buttonClass(kind: Kind = "plain", className?: string): string {
  return cx(
    "inline-flex min-h-8 items-center justify-center gap-2 rounded-md px-3 py-1 text-sm leading-5 whitespace-nowrap",
    "disabled:opacity-50",
    KINDS[kind],
    className,
  );
}

export function Button({
  kind,
  className,
  type = "button",
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { kind?: Kind }) {
  return <button type={type} className={buttonClass(kind, className)} {...rest} />;
}
