import { Button } from "~/ui/Button";
import { Answer } from "./Answer";
import type { Kept } from "./keepTake";

export interface KeptTakeProps {
  kept: Kept;
  /** The page was hidden at some time while it was played. */
  hidden: boolean;
  studentId: number | null;
  drillId: number;
  onAgain: () => void;
}

/** What became of a take: what was lost, whether it is sent, and the answer. */
export function KeptTake({ kept, hidden, studentId, drillId, onAgain }: KeptTakeProps) {
  return (
    <>
      {hidden && (
        <p className="mb-3 max-w-prose border-l-4 border-rule-strong pl-3">
          The page was hidden while you played; some browsers stop the click then. If it stopped, record
          again.
        </p>
      )}
      <Lost kept={kept} />
      {kept.problem && (
        <p role="alert" className="mb-3 max-w-prose border-l-4 border-ink pl-3" data-testid="not-sent">
          {kept.problem} The take is safe in this browser and goes out by itself as soon as it can; you may
          close the page.
        </p>
      )}
      {kept.sent ? (
        <Answer id={kept.id} onAgain={onAgain} studentId={studentId} drillId={drillId} />
      ) : (
        <>
          {!kept.problem && (
            <p role="status" className="text-ink-soft">
              Sending …
            </p>
          )}
          <Button className="mt-4" onClick={onAgain}>
            Again
          </Button>
        </>
      )}
    </>
  );
}

/** What is missing of a recording: the input went away, or the browser lost sound. */
export function Lost({ kept }: { kept: Kept }) {
  return (
    <>
      {kept.ending === "gone" && (
        <p role="alert" className="mb-3 max-w-prose border-l-4 border-ink pl-3">
          The input went away while you played. What was recorded until then is kept; plug it in again to go
          on.
        </p>
      )}
      {kept.gaps.length > 0 && (
        <p role="alert" className="mb-3 max-w-prose border-l-4 border-ink pl-3" data-testid="gaps">
          The browser lost sound {kept.gaps.length === 1 ? "once" : `${kept.gaps.length} times`}, first at{" "}
          {kept.gaps[0]?.at_s.toFixed(1)} s. Close other pages and programs, then record again.
        </p>
      )}
    </>
  );
}
