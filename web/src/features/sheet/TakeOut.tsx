import { Download } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { buttonClass } from "~/ui/Button";

const FILES: [string, string][] = [
  ["notes", "Notes, every value (CSV)"],
  ["analysis", "Everything measured (JSON)"],
  ["jams", "Notes and contour (JAMS)"],
  ["midi", "Heard notes (MIDI)"],
  ["clicks", "Where the clicks lie (CSV)"],
  ["contour", "Pitch over time (CSV)"],
];

/** A take's results and its recording as files. */
export function TakeOut({ id, recording }: { id: string; recording: boolean }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className={buttonClass("plain", "min-h-9")} data-testid="take-out">
        <Download size={16} aria-hidden />
        Files
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={4}
          className="z-50 rounded-md border border-rule-strong bg-sheet p-1 shadow-lg"
        >
          {FILES.map(([form, label]) => (
            <Item key={form} href={`/api/v1/takes/${id}/export/${form}`} label={label} />
          ))}
          {recording && (
            <>
              <DropdownMenu.Separator className="my-1 h-px bg-rule" />
              <Item href={`/api/v1/takes/${id}/original`} label="The recording as it was sent" />
            </>
          )}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

function Item({ href, label }: { href: string; label: string }) {
  return (
    <DropdownMenu.Item asChild>
      <a
        href={href}
        download
        className="flex min-h-9 items-center rounded-sm px-3 text-sm data-[highlighted]:bg-corridor data-[highlighted]:outline-none"
      >
        {label}
      </a>
    </DropdownMenu.Item>
  );
}
