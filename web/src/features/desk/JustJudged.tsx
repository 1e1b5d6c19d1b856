import type { DeskRow } from "~/api/client";
import { Button } from "~/ui/Button";

export interface Judged {
  rows: DeskRow[];
  /** How many were left alone because somebody changed them meanwhile. */
  changed: number;
}

/** What was just judged, and a way back. */
export function JustJudged({ last, onBack }: { last: Judged; onBack: () => void }) {
  return (
    <p role="status" className="mb-3 flex items-baseline gap-3 border-l-4 border-ink bg-sheet px-4 py-2">
      <span>
        {last.rows.length === 1
          ? `${last.rows[0]?.student}’s take is judged.`
          : `${last.rows.length} takes are judged.`}
        {last.changed > 0 &&
          ` ${last.changed} changed meanwhile, or ${last.changed === 1 ? "is" : "are"} gone, and ${last.changed === 1 ? "was" : "were"} left alone: look again.`}
      </span>
      {last.rows.length > 0 && (
        <Button aria-keyshortcuts="Z" title="Key: Z" onClick={onBack}>
          Back to the Desk
        </Button>
      )}
    </p>
  );
}
