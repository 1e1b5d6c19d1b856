import { looksLikeAnother, unlikeIn, unlikeWords } from "./otherDrill.math";
import { useSheet } from "./sheetContext";
import { WhichDrill } from "./WhichDrill";

/** Asks whether another drill was played, where many notes are not there and many others are. */
export function OtherDrill() {
  const { measured, teacher, trying } = useSheet();
  const { take, analysis } = measured;
  const unlike = unlikeIn(analysis);
  if (trying.trial || !looksLikeAnother(unlike)) return null;
  return (
    <section
      aria-label="Another drill?"
      className="my-3 border-l-4 border-ink bg-sheet px-4 py-3 print:hidden"
    >
      <p className="mb-2">
        <strong>Was another drill played?</strong> {unlikeWords(unlike)}
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
