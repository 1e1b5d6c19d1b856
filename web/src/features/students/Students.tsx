import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, data, type Me, type Student } from "~/api/client";
import { studentsQuery } from "~/api/queries";
import { type Needs, needsQuery } from "~/api/week";
import { minutesWords } from "~/lib/days";
import { day } from "~/lib/words";
import { Button } from "~/ui/Button";
import { Empty, Failed, Loading } from "~/ui/states";

/** Everybody this person teaches, and at a glance who needs what. */
export function Students({ me }: { me: Me }) {
  const students = useQuery(studentsQuery);
  const needs = useQuery(needsQuery);
  const byId = new Map((needs.data ?? []).map((n) => [n.student_id, n]));
  return (
    <>
      <h1 className="mb-4 text-2xl font-bold">Students</h1>
      {students.isPending && <Loading what="students" />}
      {students.error && <Failed error={students.error} onRetry={() => students.refetch()} />}
      {students.data?.length === 0 && (
        <Empty title="No students yet">Add the first one below; takes are kept under a student's name.</Empty>
      )}
      {students.data && students.data.length > 0 && (
        <ul className="border-t border-ink" data-testid="students">
          {students.data.map((student) => (
            <StudentLine key={student.id} student={student} needs={byId.get(student.id)} zone={me.zone} />
          ))}
        </ul>
      )}
      <AddStudent />
    </>
  );
}

function StudentLine({ student, needs, zone }: { student: Student; needs: Needs | undefined; zone: string }) {
  return (
    <li className="relative grid items-baseline gap-x-6 border-b border-rule py-2 hover:bg-sheet sm:grid-cols-[14rem_8rem_12rem_12rem_minmax(0,1fr)]">
      <Link to={`/students/${student.id}`} className="font-semibold after:absolute after:inset-0">
        {student.name}
      </Link>
      <span className="text-sm text-ink-soft tabular-nums">
        {student.takes} {student.takes === 1 ? "take" : "takes"}
      </span>
      <span className="text-sm text-ink-soft">
        {needs?.newest_take ? `newest ${day(needs.newest_take, zone)}` : ""}
      </span>
      <span className="text-sm text-ink-soft tabular-nums">
        {needs && needs.works_on > 0 && `${needs.works_on} ${needs.works_on === 1 ? "drill" : "drills"}`}
        {needs && needs.minutes_this_week > 0 && `, ${minutesWords(needs.minutes_this_week)} this week`}
      </span>
      <span className="text-sm">
        {[
          needs?.held && "rests: something hurts",
          needs && needs.steps > 0 && `${needs.steps} ${needs.steps === 1 ? "step" : "steps"} to confirm`,
          needs?.works_on === 0 && "works on nothing",
          !student.account && "no account yet",
        ]
          .filter(Boolean)
          .join(", ")}
      </span>
    </li>
  );
}

function AddStudent() {
  const [name, setName] = useState("");
  const queries = useQueryClient();
  const add = useMutation({
    mutationFn: () => data(api.POST("/api/v1/students", { body: { name } })),
    onSuccess: () => {
      setName("");
      return queries.invalidateQueries({ queryKey: studentsQuery.queryKey });
    },
  });
  return (
    <form
      className="mt-6 flex flex-wrap items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        add.mutate();
      }}
    >
      <label className="flex flex-col gap-1 text-sm text-ink-soft">
        New student
        <input
          className="min-h-9 w-72 rounded-md border border-rule-strong bg-sheet px-3 text-base text-ink"
          value={name}
          maxLength={120}
          required
          onChange={(event) => setName(event.target.value)}
        />
      </label>
      <Button type="submit" disabled={add.isPending || !name.trim()}>
        Add
      </Button>
      <p className="max-w-prose text-sm text-ink-soft" data-caution="minors">
        Recordings of a person are personal data; for minors you need the consent your local law asks for. A
        student can be deleted for good with everything of theirs.
      </p>
      {add.error && <Failed error={add.error} />}
    </form>
  );
}
