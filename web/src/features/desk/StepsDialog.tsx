import { Link } from "react-router";
import type { Proposal } from "~/api/week";
import { Button } from "~/ui/Button";
import { Dialog } from "~/ui/Dialog";

/** Every step a ladder proposes, also of takes that are judged and so no longer on the Desk. */
export function StepsDialog({
  proposals,
  said,
  pending,
  onConfirm,
  onClose,
}: {
  proposals: readonly Proposal[];
  /** What came of the last one. */
  said: string | null;
  pending: boolean;
  onConfirm: (proposal: Proposal) => void;
  onClose: () => void;
}) {
  return (
    <Dialog open onOpenChange={(now) => !now && onClose()} title="Steps to confirm" wide>
      {said && (
        <p role="status" className="mb-3 border-l-4 border-ink pl-3">
          {said}
        </p>
      )}
      {proposals.length === 0 && <p className="text-ink-soft">No ladder proposes a step now.</p>}
      <ul data-testid="steps">
        {proposals.map((p) => (
          <li key={p.assignment_id} className="flex items-start gap-4 border-b border-rule py-2">
            <span className="mr-auto">
              <Link className="font-semibold hover:underline" to={`/students/${p.student_id}/plan`}>
                {p.student}
              </Link>
              , {p.drill}
              <span className="block text-sm text-ink-soft">{p.says}</span>
            </span>
            <Button disabled={pending} onClick={() => onConfirm(p)}>
              {p.move === "up" ? "Up" : "Down"} to {p.to_words}
            </Button>
          </li>
        ))}
      </ul>
    </Dialog>
  );
}
