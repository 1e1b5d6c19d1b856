import { useQuery } from "@tanstack/react-query";
import { Trash2 } from "lucide-react";
import { api, type Me } from "~/api/client";
import { type Logbook, type LogDay, logQuery, plansKey } from "~/api/week";
import { dayWords, minutesWords } from "~/lib/days";
import { useAct } from "~/lib/useAct";
import { useStudentId } from "~/lib/useStudentId";
import { Button } from "~/ui/Button";
import { Empty, Failed, Loading } from "~/ui/states";
import { StudentHead } from "~/ui/student/StudentHead";
import { WeekMinutes } from "./WeekMinutes";
import { WriteLog } from "./WriteLog";

/** What was played, recorded and written, day by day. It counts; it does not reward. */
export function LogbookPage({ me }: { me: Me }) {
  const id = useStudentId(me);
  const book = useQuery(logQuery(id));
  return (
    <>
      <StudentHead me={me} id={id} />
      <div className="grid gap-x-12 gap-y-6 lg:grid-cols-[minmax(0,1fr)_20rem]">
        <div>
          {book.isPending && <Loading what="the logbook" />}
          {book.error && <Failed error={book.error} onRetry={() => book.refetch()} />}
          {book.data && <Days book={book.data} />}
        </div>
        <aside>
          {book.data && book.data.weeks.length > 0 && <WeekMinutes weeks={book.data.weeks} />}
          <WriteLog studentId={id} />
        </aside>
      </div>
    </>
  );
}

function Days({ book }: { book: Logbook }) {
  if (book.days.length === 0)
    return (
      <Empty title="Nothing yet">
        Takes come here by themselves; minutes and notes are written on the right, or with “Played it” on the
        student’s page.
      </Empty>
    );
  return (
    <ol className="border-t border-ink" data-testid="logbook">
      {book.days.map((day) => (
        <DayRow key={day.day} day={day} />
      ))}
    </ol>
  );
}

function DayRow({ day }: { day: LogDay }) {
  const remove = useAct(
    (id: string) => api.DELETE("/api/v1/plans/log/{entry_id}", { params: { path: { entry_id: id } } }),
    [plansKey],
  );
  return (
    <li
      className="grid items-baseline gap-x-6 border-b border-rule py-2 sm:grid-cols-[6.5rem_4.5rem_10.5rem_minmax(0,1fr)]"
      data-day={day.day}
    >
      <span className="tabular-nums">{dayWords(day.day)}</span>
      <span className="figures text-sm leading-6 whitespace-nowrap sm:text-right">
        {day.minutes > 0 ? minutesWords(day.minutes) : ""}
      </span>
      <span className="figures text-sm leading-6 whitespace-nowrap text-ink-soft tracking-tight">
        {day.takes > 0 &&
          `${day.takes} ${day.takes === 1 ? "take" : "takes"}${
            day.asked > 0 ? `, ${Math.round((100 * day.clean) / day.asked)} % clean` : ""
          }`}
      </span>
      <ul>
        {day.entries.map((entry) => (
          <li key={entry.id} className="group flex items-baseline gap-2">
            <span>
              {entry.kind === "discomfort" && <strong>Stopped, discomfort. </strong>}
              {entry.drill}
              {entry.minutes !== null && (
                <span className="text-ink-soft">
                  {entry.drill ? ", " : ""}
                  {minutesWords(entry.minutes)}
                </span>
              )}
              {entry.text && <span className="block">{entry.text}</span>}
            </span>
            <Button
              kind="quiet"
              className="ml-auto min-h-6! px-1! py-0! opacity-0 group-hover:opacity-100 focus-visible:opacity-100"
              aria-label="Take this line out"
              onClick={() => remove.mutate(entry.id)}
            >
              <Trash2 size={14} aria-hidden />
            </Button>
          </li>
        ))}
      </ul>
      {remove.error && <Failed error={remove.error} />}
    </li>
  );
}
