import { Link, useNavigate } from "react-router";
import type { Take } from "~/api/client";
import { day, dayAndTime } from "~/lib/words";
import { Button, buttonClass } from "~/ui/Button";
import { DeleteTake } from "./DeleteTake";
import { TakeOut } from "./TakeOut";

export interface Judging {
  judge: () => void;
  unjudge: () => void;
  left: number;
  pending: boolean;
  /** Why it was not judged. */
  problem: string | null;
}

export function TakeHead({ take, zone, judging }: { take: Take; zone: string; judging: Judging | null }) {
  const navigate = useNavigate();
  const s = take.summary;
  return (
    <div className="mb-3">
      <div className="mb-1 flex flex-wrap items-center gap-x-6 gap-y-2">
        <p className="mr-auto text-sm text-ink-soft">
          <Link className="underline" to="/">
            Desk
          </Link>{" "}
          / {dayAndTime(take.played_at, zone)}
          {take.guitar && `, ${take.guitar}`}
          {take.invented && ", played by the simulated student (invented)"}
          {take.hidden_at && ", hidden by the student from their own list"}
          {take.judged_at && `, judged ${day(take.judged_at, zone)} by ${take.judged_by ?? "somebody"}`}
        </p>
        {take.state === "measured" && (
          <span className="flex flex-wrap gap-2 print:hidden">
            {judging && <Judge take={take} judging={judging} />}
            <Link className={buttonClass("plain", "min-h-9")} to={`/compare/${take.id}`}>
              Compare
            </Link>
            <TakeOut id={take.id} recording={!take.recording_deleted_at} />
            <DeleteTake student={judging === null} take={take} onDeleted={() => navigate("/")} />
          </span>
        )}
      </div>
      <div className="flex flex-wrap items-end gap-x-6 gap-y-2">
        <h1 className="mr-auto text-2xl font-bold">
          {take.student}:{" "}
          <Link className="font-semibold hover:underline" to={`/drills/${take.drill_id}`}>
            {take.drill}
          </Link>
        </h1>
        {s && (
          <dl className="flex gap-5" data-testid="counts">
            <Count label="clean" value={s.clean} />
            <Count label="not clean" value={s.not_clean} />
            <Count label="cannot tell" value={s.unclear} />
            <Count label="missed" value={s.missed} />
            <Count label="extra" value={s.extra} />
            {s.excluded ? <Count label="excluded" value={s.excluded} /> : null}
          </dl>
        )}
      </div>
      {judging?.problem && (
        <p role="alert" className="mt-2 border-l-4 border-ink bg-sheet px-4 py-2">
          {judging.problem}
        </p>
      )}
    </div>
  );
}

function Judge({ take, judging }: { take: Take; judging: Judging }) {
  if (take.judged_at)
    return (
      <Button className="min-h-9" disabled={judging.pending} onClick={judging.unjudge}>
        Back on the Desk
      </Button>
    );
  return (
    <Button
      kind="strong"
      className="min-h-9"
      aria-keyshortcuts="Enter"
      title="Key: Enter"
      disabled={judging.pending}
      onClick={judging.judge}
      data-testid="judge"
    >
      Judged{judging.left > 0 && ", next"}
    </Button>
  );
}

function Count({ label, value }: { label: string; value: number }) {
  return (
    <div className="flex flex-col-reverse" data-count={label}>
      <dt className="text-sm text-ink-soft">{label}</dt>
      <dd className="figures text-xl leading-6 font-semibold">{value}</dd>
    </div>
  );
}
