import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "react-router";
import { api, data, type Me } from "~/api/client";
import { sheetsQuery } from "~/api/week";
import { dayWords } from "~/lib/days";
import { useAct } from "~/lib/useAct";
import { useStudentId } from "~/lib/useStudentId";
import { day } from "~/lib/words";
import { Button } from "~/ui/Button";
import { Empty, Failed, Loading } from "~/ui/states";
import { StudentHead } from "~/ui/student/StudentHead";

/** Lesson sheets of a student. */
export function SheetsPage({ me }: { me: Me }) {
  const id = useStudentId(me);
  const sheets = useQuery(sheetsQuery(id));
  const navigate = useNavigate();
  const make = useAct(
    () =>
      data(api.POST("/api/v1/reports/sheets", { body: { student_id: id, since: null, paper: paperHere() } })),
    [["sheets"]],
    (made) => navigate(`/sheets/${made.id}`),
  );
  const teacher = me.role === "teacher";
  return (
    <>
      <StudentHead me={me} id={id}>
        {teacher && (
          <Button kind="strong" onClick={() => make.mutate()} disabled={make.isPending}>
            {make.isPending ? "Reading the takes …" : "Make a lesson sheet"}
          </Button>
        )}
      </StudentHead>
      {make.error && <Failed error={make.error} />}
      {sheets.isPending && <Loading what="lesson sheets" />}
      {sheets.error && <Failed error={sheets.error} onRetry={() => sheets.refetch()} />}
      {sheets.data?.length === 0 && (
        <Empty title="No lesson sheet yet">
          One page for the student to keep: what was worked on, three findings with what to try, and the week
          with its tab.
        </Empty>
      )}
      <ul className="max-w-3xl">
        {(sheets.data ?? []).map((sheet) => (
          <li
            key={sheet.id}
            className="relative flex flex-wrap items-baseline gap-x-6 border-b border-rule py-2 hover:bg-sheet"
          >
            <Link to={`/sheets/${sheet.id}`} className="font-semibold after:absolute after:inset-0">
              {day(sheet.made_at, me.zone)}
            </Link>
            <span className="mr-auto text-ink-soft">
              {sheet.findings.map((f) => f.says).join(", ") || "nothing stood out"}
            </span>
            <span className="text-sm text-ink-soft">
              since {dayWords(sheet.since)}
              {sheet.link && ", shared"}
            </span>
          </li>
        ))}
      </ul>
    </>
  );
}

/** Letter where people use it, A4 everywhere else. */
function paperHere(): "A4" | "Letter" {
  return /-(US|CA|MX|PH)$/i.test(navigator.language) ? "Letter" : "A4";
}
