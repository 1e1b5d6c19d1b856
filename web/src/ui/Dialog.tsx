import { X } from "lucide-react";
import { Dialog as Radix } from "radix-ui";
import type { ReactNode } from "react";
import { cx } from "./cx";

export interface DialogProps {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  title: string;
  description?: string;
  /** For two columns. */
  wide?: boolean;
  children: ReactNode;
}

export function Dialog({ open, onOpenChange, title, description, wide = false, children }: DialogProps) {
  return (
    <Radix.Root open={open} onOpenChange={onOpenChange}>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-40 bg-ink/35" />
        <Radix.Content
          className={cx(
            "fixed top-[10vh] left-1/2 z-50 max-h-[84vh] -translate-x-1/2 overflow-auto rounded-md border border-rule-strong bg-sheet p-6 shadow-lg",
            wide ? "w-[min(54rem,94vw)]" : "w-[min(34rem,94vw)]",
          )}
          {...(description ? {} : { "aria-describedby": undefined })}
        >
          <Radix.Title className="mr-8 mb-4 text-xl font-semibold">{title}</Radix.Title>
          {description && <Radix.Description className="mb-4 text-ink-soft">{description}</Radix.Description>}
          {children}
          {/* Last in order, so that opening the dialog does not focus it. */}
          <Radix.Close className="absolute top-5 right-5 rounded-sm p-1" aria-label="Close">
            <X size={18} aria-hidden />
          </Radix.Close>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
