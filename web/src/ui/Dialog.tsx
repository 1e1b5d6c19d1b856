import { X } from "lucide-react";
import { Dialog as Radix } from "radix-ui";
import type { ReactNode } from "react";

export interface DialogProps {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  title: string;
  description?: string;
  children: ReactNode;
}

export function Dialog({ open, onOpenChange, title, description, children }: DialogProps) {
  return (
    <Radix.Root open={open} onOpenChange={onOpenChange}>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-40 bg-ink/35" />
        <Radix.Content
          className="fixed top-[12vh] left-1/2 z-50 max-h-[80vh] w-[min(34rem,94vw)] -translate-x-1/2 overflow-auto rounded-md border border-rule-strong bg-sheet p-6 shadow-lg"
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
