import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, data, type EarRead, type GuitarKind, type Me } from "~/api/client";
import { earChecksQuery, guitarsQuery, studentsQuery } from "~/api/queries";
import { day, earWords, GUITAR_KINDS } from "~/lib/words";
import { Button } from "~/ui/Button";
import { AskToRecord } from "~/ui/consent/AskToRecord";
import { ConsentSection } from "~/ui/consent/ConsentSection";
import { Field } from "~/ui/form/Field";
import { Select } from "~/ui/Select";
import { Failed, Loading } from "~/ui/states";
import { StudentHead } from "~/ui/student/StudentHead";
import { UploadButton } from "~/ui/upload/UploadButton";
import { People } from "./People";
import { TakesList } from "./TakesPage";
import { Voice } from "./Voice";

/** One student: guitars, what they hear, their takes. */
export function StudentPage({ me }: { me: Me }) {
  const id = Number(useParams().id);
  const students = useQuery(studentsQuery);
  if (students.isPending) return <Loading what="the student" />;
  if (students.error) return <Failed error={students.error} onRetry={() => students.refetch()} />;
  const student = students.data.find((s) => s.id === id);
  if (!student) return <p className="py-8">There is no such student here.</p>;
  return (
    <>
      <StudentHead me={me} id={id}>
        <UploadButton me={me} />
      </StudentHead>
      <div className="grid min-w-0 gap-x-12 gap-y-8 *:min-w-0 lg:grid-cols-2">
        <div className="grid min-w-0 content-start gap-8 *:min-w-0">
          <Guitars studentId={id} />
          <ConsentSection
            studentId={id}
            name={student.name}
            none={<AskToRecord student={student} me={me} />}
          />
        </div>
        <Hears studentId={id} zone={me.zone} />
        <Voice studentId={id} />
        <section aria-label="Takes" className="lg:col-span-2">
          <h2 className="border-b border-ink pb-1 text-lg font-semibold">Takes</h2>
          <TakesList studentId={id} zone={me.zone} most={12} />
        </section>
        {me.role === "teacher" && <People student={student} me={me} />}
      </div>
    </>
  );
}

function Guitars({ studentId }: { studentId: number }) {
  const guitars = useQuery(guitarsQuery(studentId));
  const [name, setName] = useState("");
  const [kind, setKind] = useState<GuitarKind>("solid");
  const queries = useQueryClient();
  const navigate = useNavigate();
  const add = useMutation({
    mutationFn: () => data(api.POST("/api/v1/guitars", { body: { student_id: studentId, name, kind } })),
    onSuccess: (made) => {
      void queries.invalidateQueries({ queryKey: ["guitars"] });
      navigate(`/guitars/${made.id}`);
    },
  });
  return (
    <section aria-label="Guitars">
      <h2 className="border-b border-ink pb-1 text-lg font-semibold">Guitars</h2>
      {guitars.error && <Failed error={guitars.error} onRetry={() => guitars.refetch()} />}
      <ul>
        {(guitars.data ?? []).map((guitar) => (
          <li
            key={guitar.id}
            className="relative flex justify-between border-b border-rule py-2 hover:bg-sheet"
          >
            <Link to={`/guitars/${guitar.id}`} className="font-semibold after:absolute after:inset-0">
              {guitar.name}
            </Link>
            <span className="text-ink-soft">{GUITAR_KINDS.find((k) => k.value === guitar.kind)?.label}</span>
          </li>
        ))}
      </ul>
      {guitars.data?.length === 0 && (
        <p className="py-2 text-ink-soft">None yet. Takes are read against the guitar once it is known.</p>
      )}
      <form
        className="mt-3 flex flex-wrap items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          add.mutate();
        }}
      >
        <Field label="New guitar" words className="w-52" value={name} maxLength={120} onText={setName} />
        <div className="w-48">
          <Select
            label="Kind"
            value={kind}
            onChange={(k) => setKind(k as GuitarKind)}
            choices={GUITAR_KINDS}
          />
        </div>
        <Button type="submit" className="min-h-9" disabled={add.isPending || !name.trim()}>
          Add
        </Button>
      </form>
      {add.error && <Failed error={add.error} />}
    </section>
  );
}

function Hears({ studentId, zone }: { studentId: number; zone: string }) {
  const checks = useQuery(earChecksQuery(studentId));
  return (
    <section aria-label="What they hear">
      <h2 className="border-b border-ink pb-1 text-lg font-semibold">Ear</h2>
      {checks.error && <Failed error={checks.error} onRetry={() => checks.refetch()} />}
      <ul>
        {(checks.data ?? []).slice(0, 8).map((check) => (
          <li key={check.id} className="flex justify-between gap-4 border-b border-rule py-2">
            <span>{heardWords(check)}</span>
            <span className="text-sm whitespace-nowrap text-ink-soft">{day(check.started_at, zone)}</span>
          </li>
        ))}
      </ul>
      {checks.data?.length === 0 && <p className="py-2 text-ink-soft">Not checked yet.</p>}
      <p className="mt-3">
        <Link className="underline" to={`/bench/ear?student=${studentId}`}>
          Check the ear
        </Link>{" "}
        <span className="text-sm text-ink-soft">
          (two minutes; nobody can be asked for what they cannot hear yet)
        </span>
      </p>
    </section>
  );
}

function heardWords(check: EarRead): string {
  if (check.threshold === null || check.u === null) {
    return `${earWords(check.kind)}: no threshold found`;
  }
  const unit = check.unit === "db" ? "dB" : check.unit;
  const digits = check.threshold < 3 ? 1 : 0;
  return `${earWords(check.kind)}: ${check.threshold.toFixed(digits)} ± ${check.u.toFixed(digits)} ${unit}`;
}
