import { useQuery } from "@tanstack/react-query";
import { CalendarPlus, ChevronLeft, ChevronRight } from "lucide-react";
import { useState } from "react";
import type { Me } from "~/api/client";
import { type Plan, weekQuery } from "~/api/week";
import { addDays, dayWords } from "~/lib/days";
import { useStudentId } from "~/lib/useStudentId";
import { Button } from "~/ui/Button";
import { Failed, Loading } from "~/ui/states";
import { StudentHead } from "~/ui/student/StudentHead";
import { AssignDialog } from "./AssignDialog";
import { Assignments } from "./Assignments";
import { CourseDialog } from "./CourseDialog";
import { HoldNote } from "./HoldNote";
import { PracticeDialog } from "./PracticeDialog";
import { WeekTable } from "./WeekTable";

/** What a student works on, where each drill stands, and the days it is spread over. */
export function PlanPage({ me }: { me: Me }) {
  const id = useStudentId(me);
  const [day, setDay] = useState<string | undefined>(undefined);
  const week = useQuery(weekQuery(id, day));
  const [assigning, setAssigning] = useState(false);
  const [beginning, setBeginning] = useState(false);
  const [practice, setPractice] = useState(false);
  const teacher = me.role === "teacher";
  return (
    <>
      <StudentHead me={me} id={id}>
        <div className="flex flex-wrap gap-2">
          <Button onClick={() => setPractice(true)}>
            <CalendarPlus size={16} aria-hidden />
            Practice times, calendar
          </Button>
          {teacher && (
            <>
              <Button onClick={() => setBeginning(true)}>Begin a course</Button>
              <Button kind="strong" onClick={() => setAssigning(true)}>
                Assign a drill
              </Button>
            </>
          )}
        </div>
      </StudentHead>
      {week.isPending && <Loading what="the plan" />}
      {week.error && <Failed error={week.error} onRetry={() => week.refetch()} />}
      {week.data && (
        <>
          {week.data.hold && <HoldNote hold={week.data.hold} studentId={id} teacher={teacher} />}
          <Assignments plan={week.data} me={me} />
          <WeekHead plan={week.data} onDay={setDay} />
          <WeekTable plan={week.data} />
          {assigning && (
            <AssignDialog
              studentId={id}
              running={week.data.assignments}
              open
              onClose={() => setAssigning(false)}
            />
          )}
          {beginning && (
            <CourseDialog studentId={id} today={week.data.today} onClose={() => setBeginning(false)} />
          )}
          {practice && (
            <PracticeDialog studentId={id} practice={week.data.practice} onClose={() => setPractice(false)} />
          )}
        </>
      )}
    </>
  );
}

function WeekHead({ plan, onDay }: { plan: Plan; onDay: (day: string | undefined) => void }) {
  const last = addDays(plan.monday, 6);
  const now = plan.monday <= plan.today && plan.today <= last;
  return (
    <div className="mt-8 mb-2 flex items-center gap-2">
      <h2 className="mr-auto text-lg font-semibold">
        {now ? "This week" : `${dayWords(plan.monday)} to ${dayWords(last)}`}
      </h2>
      <Button aria-label="The week before" onClick={() => onDay(addDays(plan.monday, -7))}>
        <ChevronLeft size={16} aria-hidden />
      </Button>
      {!now && <Button onClick={() => onDay(undefined)}>This week</Button>}
      <Button aria-label="The week after" onClick={() => onDay(addDays(plan.monday, 7))}>
        <ChevronRight size={16} aria-hidden />
      </Button>
    </div>
  );
}
