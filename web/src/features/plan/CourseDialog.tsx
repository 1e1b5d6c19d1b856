import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, data } from "~/api/client";
import { coursesQuery, plansKey } from "~/api/week";
import { useAct } from "~/lib/useAct";
import { Button } from "~/ui/Button";
import { Dialog } from "~/ui/Dialog";
import { DayField } from "~/ui/form/DayField";
import { Tick } from "~/ui/form/Tick";
import { Select } from "~/ui/Select";
import { Failed, Loading } from "~/ui/states";

type Speed = "tempo_steps" | "notes_per_click" | "overlearn";
const SPEEDS: { value: Speed; label: string }[] = [
  { value: "tempo_steps", label: "tempo up in small steps" },
  { value: "notes_per_click", label: "more notes a click" },
  { value: "overlearn", label: "stay until it is effortless" },
];

export interface CourseDialogProps {
  studentId: number;
  today: string;
  onClose: () => void;
}

/** Weeks of drills begun in one go: which course, from when, what is left out. */
export function CourseDialog({ studentId, today, onClose }: CourseDialogProps) {
  const courses = useQuery(coursesQuery);
  const [name, setName] = useState("");
  const [begins, setBegins] = useState(today);
  const [speed, setSpeed] = useState<Speed>("tempo_steps");
  const [out, setOut] = useState<ReadonlySet<string>>(new Set());
  const [kept, setKept] = useState<string[]>([]);
  const course = courses.data?.find((c) => c.name === name) ?? courses.data?.[0];
  const begin = useAct(
    () =>
      data(
        api.POST("/api/v1/plans/courses/{name}", {
          params: { path: { name: course?.name ?? "" } },
          body: { student_id: studentId, begins, speed, leave_out: [...out] },
        }),
      ),
    [plansKey],
    (made) => (made.kept.length > 0 ? setKept(made.kept) : onClose()),
  );
  if (kept.length > 0)
    return (
      <Dialog open onOpenChange={(now) => !now && onClose()} title="The course has begun">
        <p>These drills were in the plan already and stay as they are: {kept.join("; ")}.</p>
        <div className="mt-5 flex justify-end">
          <Button kind="strong" onClick={onClose}>
            Good
          </Button>
        </div>
      </Dialog>
    );
  return (
    <Dialog open onOpenChange={(now) => !now && onClose()} title="Begin a course" wide>
      {courses.isPending && <Loading what="the courses" />}
      {courses.error && <Failed error={courses.error} onRetry={() => courses.refetch()} />}
      {course && (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            begin.mutate();
          }}
        >
          <div className="grid grid-cols-2 gap-3 sm:grid-cols-3">
            <Select
              label="Course"
              value={course.name}
              onChange={(value) => {
                setName(value);
                setOut(new Set());
              }}
              choices={(courses.data ?? []).map((c) => ({ value: c.name, label: c.title }))}
            />
            <DayField label="Begins" value={begins} onDay={setBegins} required />
            <Select
              label="Speed is gained by"
              value={speed}
              onChange={(value) => setSpeed(value as Speed)}
              choices={SPEEDS}
            />
          </div>
          <p className="mt-3">{course.about}</p>
          <p className="text-sm text-ink-soft">Done: {course.done}</p>
          <table className="mt-3 w-full text-sm" data-testid="parts">
            <thead>
              <tr className="border-b border-ink text-left">
                <th className="py-1">Drill</th>
                <th>Weeks</th>
                <th>Minutes</th>
                <th>Days</th>
              </tr>
            </thead>
            <tbody>
              {course.parts.map((part) => (
                <tr key={part.title} className="border-b border-rule">
                  <td className="py-1">
                    <Tick
                      label={part.title}
                      checked={!out.has(part.title)}
                      onChange={(on) => {
                        const next = new Set(out);
                        if (on) next.delete(part.title);
                        else next.add(part.title);
                        setOut(next);
                      }}
                    />
                  </td>
                  <td className="figures">
                    {part.first_week === part.last_week
                      ? part.first_week
                      : `${part.first_week} to ${part.last_week}`}
                  </td>
                  <td className="figures">{part.minutes}</td>
                  <td className="figures">{part.days}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {begin.error && <Failed error={begin.error} />}
          <div className="mt-5 flex justify-end gap-3">
            <Button onClick={onClose}>Cancel</Button>
            <Button
              kind="strong"
              type="submit"
              disabled={begin.isPending || out.size === course.parts.length}
            >
              Begin it
            </Button>
          </div>
        </form>
      )}
    </Dialog>
  );
}
