import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, data, type Me, type Student } from "~/api/client";
import { type ConsentGiven, type ConsentStated, consentQuery } from "~/api/consent";
import { studentsQuery } from "~/api/queries";
import { useAct } from "~/lib/useAct";
import { Button } from "~/ui/Button";
import { Failed } from "~/ui/states";
import { EnterConsent } from "./EnterConsent";
import { GiveConsent } from "./GiveConsent";

/** In place of what would record: nobody has agreed yet, or the student has left. */
export function AskToRecord({ student, me }: { student: Student; me: Me }) {
  if (student.left_at)
    return (
      <p className="my-4 max-w-2xl border-l-4 border-ink bg-sheet px-4 py-3" data-testid="has-left">
        {student.name} has left the studio, so nothing is recorded.
      </p>
    );
  return me.role === "teacher" ? <TeacherAsks student={student} /> : <StudentAgrees student={student} />;
}

function TeacherAsks({ student }: { student: Student }) {
  const [asking, setAsking] = useState(false);
  const state = useStated(student.id, () => setAsking(false));
  return (
    <div className="my-4 max-w-2xl border-l-4 border-ink bg-sheet px-4 py-3" data-testid="not-agreed">
      <p>
        There is no consent yet to record {student.name}. The student, or a parent or guardian, gives it on
        the recording page or with a guest link; or enter here what you were given.
      </p>
      <Button className="mt-3" onClick={() => setAsking(true)}>
        Enter consent
      </Button>
      {asking && (
        <EnterConsent
          students={[student.name]}
          pending={state.isPending}
          error={state.error}
          onState={state.mutate}
          onClose={() => setAsking(false)}
        />
      )}
    </div>
  );
}

/** Writing down that one student agreed. */
export function useStated(studentId: number, after: () => void) {
  return useAct(
    (said: ConsentStated) =>
      data(
        api.PUT("/api/v1/students/{student_id}/consent", {
          params: { path: { student_id: studentId } },
          body: said,
        }),
      ),
    [studentsQuery.queryKey, consentQuery(studentId).queryKey, ["audit"]],
    after,
  );
}

function StudentAgrees({ student }: { student: Student }) {
  const asked = useQuery(consentQuery(student.id));
  const agree = useAct(
    (agreed: ConsentGiven) =>
      data(
        api.POST("/api/v1/students/{student_id}/consent", {
          params: { path: { student_id: student.id } },
          body: agreed,
        }),
      ),
    [studentsQuery.queryKey, consentQuery(student.id).queryKey],
  );
  if (asked.error) return <Failed error={asked.error} onRetry={() => asked.refetch()} />;
  if (!asked.data) return null;
  return (
    <GiveConsent
      student={student.name}
      words={asked.data.words}
      own
      pending={agree.isPending}
      error={agree.error}
      onAgree={agree.mutate}
    />
  );
}
