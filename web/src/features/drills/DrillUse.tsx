import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import type { Me } from "~/api/client";
import { drillUseQuery } from "~/api/week";
import { dayAndTime } from "~/lib/words";
import { Failed } from "~/ui/states";
import { Ticks } from "~/ui/Ticks";

/** Beside the tab: who plays this drill, at which step and how fast it was clean; its newest takes. */
export function DrillUse({ drillId, me }: { drillId: number; me: Me }) {
  const use = useQuery(drillUseQuery(drillId));
  const teacher = me.role === "teacher";
  if (use.error) return <Failed error={use.error} onRetry={() => use.refetch()} />;
  if (!use.data) return null;
  const { players, takes } = use.data;
  return (
    <aside aria-label="Who plays it" className="print:hidden" data-testid="drill-use">
      <h2 className="border-b border-ink pb-1 font-semibold">{teacher ? "Who plays it" : "Where you are"}</h2>
      {players.length === 0 && (
        <p className="py-2 text-sm text-ink-soft">
          {teacher
            ? "Nobody yet. Assign it from a student’s plan, or record a take."
            : "You have not played it yet."}
        </p>
      )}
      <ul>
        {players.map((p) => (
          <li key={p.student_id} className="border-b border-rule py-1.5 text-sm">
            {teacher && (
              <Link
                className="font-semibold hover:underline"
                to={
                  p.takes > 1
                    ? `/students/${p.student_id}/progress/${drillId}`
                    : `/students/${p.student_id}/plan`
                }
              >
                {p.student}
              </Link>
            )}
            <span className="block text-ink-soft tabular-nums">
              {[
                p.step === null ? "not assigned" : `assigned: ${p.step}`,
                p.bpm !== null && `clean up to ${Math.round(p.bpm)} bpm`,
                `${p.takes} ${p.takes === 1 ? "take" : "takes"}`,
              ]
                .filter(Boolean)
                .join(", ")}
            </span>
          </li>
        ))}
      </ul>
      {takes.length > 0 && (
        <>
          <h2 className="mt-5 border-b border-ink pb-1 font-semibold">Newest takes</h2>
          <ul>
            {takes.map((t) => (
              <li key={t.take_id} className="relative border-b border-rule py-1.5 text-sm hover:bg-sheet">
                <span className="flex items-baseline justify-between gap-3">
                  <Link className="font-semibold after:absolute after:inset-0" to={`/takes/${t.take_id}`}>
                    {teacher ? t.student : dayAndTime(t.played_at, me.zone)}
                  </Link>
                  <span className="figures">{t.asked === null ? t.state : `${t.clean} of ${t.asked}`}</span>
                </span>
                <span className="flex items-center justify-between gap-3 text-ink-soft tabular-nums">
                  <span className="whitespace-nowrap">
                    {teacher ? dayAndTime(t.played_at, me.zone) : t.bpm && `${Math.round(t.bpm)} bpm`}
                  </span>
                  {t.ticks && <Ticks ticks={t.ticks} />}
                </span>
              </li>
            ))}
          </ul>
        </>
      )}
    </aside>
  );
}
