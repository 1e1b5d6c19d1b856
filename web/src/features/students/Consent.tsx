import { useQuery } from "@tanstack/react-query";
import type { Me, Student } from "~/api/client";
import { consentQuery } from "~/api/consent";
import { AskToRecord } from "~/ui/consent/AskToRecord";
import { TakeBack } from "~/ui/consent/TakeBack";
import { agreedWords } from "~/ui/consent/words";
import { Failed } from "~/ui/states";

/** Who agreed that a student is recorded, and how it is taken back. */
export function Consent({ student, me }: { student: Student; me: Me }) {
  const found = useQuery(consentQuery(student.id));
  return (
    <section aria-label="Consent to recording">
      <h2 className="border-b border-ink pb-1 text-lg font-semibold">Consent to recording</h2>
      {found.error && <Failed error={found.error} onRetry={() => found.refetch()} />}
      {found.data?.current && (
        <>
          <p className="mt-2 flex flex-wrap items-baseline gap-x-3" data-testid="agreed">
            <span>{agreedWords(found.data.current)}</span>
            <TakeBack studentId={student.id} name={student.name} />
          </p>
          <details className="text-sm text-ink-soft">
            <summary className="cursor-pointer">What was agreed to</summary>
            <p className="max-w-prose">{found.data.current.to}</p>
          </details>
        </>
      )}
      {found.data && !found.data.current && <AskToRecord student={student} me={me} />}
      {found.data && found.data.before.length > 0 && (
        <ul className="mt-1 text-sm text-ink-soft">
          {found.data.before.map((consent) => (
            <li key={consent.written_at}>
              Withdrawn by {consent.withdrawn_by}: {agreedWords(consent)}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
