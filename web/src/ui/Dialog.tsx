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
          <div className="mb-4 flex items-start justify-between gap-4">
            <Radix.Title className="text-xl font-semibold">{title}</Radix.Title>
            <Radix.Close className="rounded-sm p-1" aria-label="Close">
              <X size={18} aria-hidden />
            </Radix.Close>
          </div>
          {description && <Radix.Description className="mb-4 text-ink-soft">{description}</Radix.Description>}
          {children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
