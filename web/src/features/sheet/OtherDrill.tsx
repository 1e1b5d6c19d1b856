import { looksLikeAnother } from "./otherDrill.math";
import { useSheet } from "./sheetContext";
import { WhichDrill } from "./WhichDrill";

/** Asks whether another drill was played, where many notes are missing and many others are heard. */
export function OtherDrill() {
  const { measured, teacher, trying } = useSheet();
  const { take } = measured;
  const counts = take.summary;
  if (!counts || trying.trial || !looksLikeAnother(counts)) return null;
  const asked = counts.clean + counts.not_clean + counts.unclear + counts.missed;
  return (
    <section
      aria-label="Another drill?"
      className="my-3 border-l-4 border-ink bg-sheet px-4 py-3 print:hidden"
    >
      <p className="mb-2">
        <strong>Was another drill played?</strong> {counts.missed} of its {asked} notes are missing and{" "}
        {counts.extra} others are heard.
      </p>
      {teacher && !take.recording_deleted_at && (
        <WhichDrill
          takeId={take.id}
          drillId={take.drill_id}
          act="Show the effect"
          busy={trying.pending}
          onChoose={(drillId) => trying.begin({ drill_id: drillId })}
        />
      )}
    </section>
  );
}
