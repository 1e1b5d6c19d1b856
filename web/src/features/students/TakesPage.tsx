import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import type { Me } from "~/api/client";
import { takesOfQuery } from "~/api/queries";
import { dayAndTime } from "~/lib/words";
import { Failed } from "~/ui/states";
import { Ticks } from "~/ui/Ticks";
import { UploadButton } from "~/ui/upload/UploadButton";

const MOST_TAKES = 100;

/** A student's own takes, newest first. */
export function TakesPage({ me }: { me: Me }) {
  return (
    <>
      <div className="mb-3 flex flex-wrap items-end gap-3">
        <h1 className="mr-auto text-2xl font-bold">Takes</h1>
        <UploadButton me={me} />
      </div>
      <TakesList studentId={me.student_id ?? 0} zone={me.zone} most={MOST_TAKES} />
    </>
  );
}

/** Takes of one student with their miniature; the whole row leads to the sheet. */
export function TakesList({ studentId, zone, most }: { studentId: number; zone: string; most: number }) {
  const takes = useQuery(takesOfQuery(studentId, most));
  return (
    <>
      {takes.error && <Failed error={takes.error} onRetry={() => takes.refetch()} />}
      {takes.data?.length === 0 && <p className="py-2 text-ink-soft">None yet.</p>}
      <ul data-testid="takes">
        {(takes.data ?? []).map((take) => (
          <li
            key={take.id}
            className="relative grid gap-x-4 gap-y-1 border-b border-rule py-2 hover:bg-sheet sm:grid-cols-[10rem_minmax(0,1fr)_minmax(0,16rem)_6rem]"
          >
            <span className="tabular-nums">{dayAndTime(take.played_at, zone)}</span>
            <Link to={`/takes/${take.id}`} className="after:absolute after:inset-0">
              {take.drill}
            </Link>
            <span className="overflow-hidden">{take.ticks && <Ticks ticks={take.ticks} />}</span>
            <span className="text-sm text-ink-soft">
              {take.summary
                ? `${take.summary.clean} of ${take.summary.asked}`
                : take.problem
                  ? "not measured"
                  : "measuring"}
            </span>
          </li>
        ))}
      </ul>
    </>
  );
}
