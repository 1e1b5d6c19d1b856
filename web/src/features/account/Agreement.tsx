import { useQuery } from "@tanstack/react-query";
import type { Me } from "~/api/client";
import { consentQuery } from "~/api/consent";
import { TakeBack } from "~/ui/consent/TakeBack";
import { agreedWords } from "~/ui/consent/words";
import { Failed } from "~/ui/states";

/** What a student agreed to, and how to take it back. */
export function Agreement({ me }: { me: Me }) {
  const id = me.student_id ?? 0;
  const found = useQuery({ ...consentQuery(id), enabled: me.student_id !== null });
  return (
    <section aria-label="Consent to recording">
      <h2 className="border-b border-ink pb-1 text-lg font-semibold">Consent to recording</h2>
      {found.error && <Failed error={found.error} onRetry={() => found.refetch()} />}
      {found.data && !found.data.current && (
        <p className="mt-3">Not given. You are asked before your next recording.</p>
      )}
      {found.data?.current && (
        <>
          <p className="mt-3 max-w-prose">{found.data.current.to}</p>
          <p className="mt-1 flex flex-wrap items-baseline gap-x-3 text-ink-soft">
            <span>{agreedWords(found.data.current)}</span>
            <TakeBack studentId={id} name={me.name} />
          </p>
        </>
      )}
    </section>
  );
}
