import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, data, type Me, type Student } from "~/api/client";
import type { ConsentStated } from "~/api/consent";
import { studentsQuery } from "~/api/queries";
import { classQuery, needsQuery } from "~/api/week";
import { useAct } from "~/lib/useAct";
import { day } from "~/lib/words";
import { Button } from "~/ui/Button";
import { EnterConsent } from "~/ui/consent/EnterConsent";
import { Empty, Failed, Loading } from "~/ui/states";
import { ClassTable } from "./ClassTable";

/** Everybody this person teaches, and at a glance who needs what. */
export function Students({ me }: { me: Me }) {
  const students = useQuery(studentsQuery);
  const needs = useQuery(needsQuery);
  const glance = useQuery(classQuery);
  const here = (students.data ?? []).filter((s) => !s.left_at);
  const former = (students.data ?? []).filter((s) => s.left_at);
  // All at once, so that nothing moves under the pointer.
  const waiting = needs.isPending || glance.isPending;
  const byId = new Map((needs.data ?? []).map((n) => [n.student_id, n]));
  return (
    <>
      <h1 className="mb-4 text-2xl font-bold">Students</h1>
      {students.isPending && <Loading what="students" />}
      {students.error && <Failed error={students.error} onRetry={() => students.refetch()} />}
      {students.data?.length === 0 && (
        <Empty title="No students yet">Add the first one below; takes are kept under a student's name.</Empty>
      )}
      <NotAgreed students={here.filter((s) => !s.agreed)} />
      {here.length > 0 && waiting && <Loading what="the class" />}
      {here.length > 0 && !waiting && (
        <ClassTable students={here} needs={byId} found={glance.data} zone={me.zone} />
      )}
      {!waiting && !students.isPending && <AddStudent />}
      {former.length > 0 && (
        <section aria-label="Former students" className="mt-8">
          <h2 className="text-lg font-semibold">Former students</h2>
          <ul className="border-t border-rule" data-testid="former">
            {former.map((student) => (
              <li
                key={student.id}
                className="flex flex-wrap items-baseline gap-x-4 border-b border-rule py-1.5"
              >
                <Link to={`/students/${student.id}`} className="font-semibold hover:underline">
                  {student.name}
                </Link>
                <span className="text-sm text-ink-soft tabular-nums">
                  {student.takes} {student.takes === 1 ? "take" : "takes"}
                  {student.left_at && `, left ${day(student.left_at, me.zone)}`}
                </span>
              </li>
            ))}
          </ul>
        </section>
      )}
    </>
  );
}

/** Who has not agreed to be recorded, and the one step for those who have on paper. */
function NotAgreed({ students }: { students: Student[] }) {
  const [asking, setAsking] = useState(false);
  const state = useAct(
    (said: ConsentStated) =>
      api.POST("/api/v1/consents", { body: { ...said, student_ids: students.map((s) => s.id) } }),
    [studentsQuery.queryKey, ["consent"]],
    () => setAsking(false),
  );
  if (students.length === 0) return null;
  return (
    <div
      className="mb-4 flex max-w-3xl flex-wrap items-baseline gap-x-4 gap-y-2 border-l-4 border-ink pl-3"
      data-testid="not-agreed"
    >
      <p>
        {students.length === 1
          ? `There is no consent yet to record ${students[0]?.name}.`
          : `There is no consent yet to record ${students.length} students.`}
      </p>
      <Button onClick={() => setAsking(true)}>Enter consent</Button>
      {asking && (
        <EnterConsent
          students={students.map((s) => s.name)}
          pending={state.isPending}
          error={state.error}
          onState={state.mutate}
          onClose={() => setAsking(false)}
        />
      )}
    </div>
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
        Recordings of a person are personal data; for minors you need the consent your local law asks for.
        Nothing is recorded before the student, or a parent or guardian, has agreed. A student can be deleted
        for good with everything of theirs.
      </p>
      {add.error && <Failed error={add.error} />}
    </form>
  );
}
