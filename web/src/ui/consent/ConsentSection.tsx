import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { consentQuery } from "~/api/consent";
import { Failed } from "~/ui/states";
import { WithdrawConsent } from "./WithdrawConsent";
import { agreedWords } from "./words";

/** Who consented that a student is recorded, to what, and how it is withdrawn; none: shown where nobody has. */
export function ConsentSection({
  studentId,
  name,
  none,
}: {
  studentId: number;
  name: string;
  none: ReactNode;
}) {
  const found = useQuery(consentQuery(studentId));
  return (
    <section aria-label="Consent to recording">
      <h2 className="border-b border-ink pb-1 text-lg font-semibold">Consent to recording</h2>
      {found.error && <Failed error={found.error} onRetry={() => found.refetch()} />}
      {found.data?.current && (
        <>
          <p className="mt-2 flex flex-wrap items-baseline gap-x-3" data-testid="agreed">
            <span>{agreedWords(found.data.current)}</span>
            <WithdrawConsent studentId={studentId} name={name} />
          </p>
          <details className="text-sm text-ink-soft">
            <summary className="cursor-pointer">What was agreed to</summary>
            <p className="max-w-prose">{found.data.current.to}</p>
          </details>
        </>
      )}
      {found.data && !found.data.current && none}
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
