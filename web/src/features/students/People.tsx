import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, data, type Me, type Student } from "~/api/client";
import { studentsQuery } from "~/api/queries";
import { auditQuery, plansKey } from "~/api/week";
import { useAct } from "~/lib/useAct";
import { AuditList } from "~/ui/AuditList";
import { Button } from "~/ui/Button";
import { Field } from "~/ui/form/Field";
import { LinkOnce } from "~/ui/LinkOnce";
import { Failed } from "~/ui/states";
import { GuestLinks } from "./GuestLinks";
import { DeleteStudent, HandOver, Rename } from "./PeopleForms";

/** How a student gets in; another teacher; another name; deleting for good; who saw what. */
export function People({ student, me }: { student: Student; me: Me }) {
  const path = { params: { path: { student_id: student.id } } };
  const [email, setEmail] = useState("");
  const [asking, setAsking] = useState<"name" | "over" | "delete" | null>(null);
  const changes = [studentsQuery.queryKey, ["audit"]];
  const invite = useAct(
    () => data(api.POST("/api/v1/students/{student_id}/invite", { ...path, body: { email } })),
    changes,
  );
  const reset = useAct(() => data(api.POST("/api/v1/students/{student_id}/reset-link", path)), changes);
  const left = useAct(
    () =>
      student.left_at
        ? data(api.DELETE("/api/v1/students/{student_id}/left", path))
        : data(api.POST("/api/v1/students/{student_id}/left", path)),
    [...changes, plansKey],
  );
  const link = invite.data ?? reset.data;
  return (
    <section aria-label="Account" className="lg:col-span-2">
      <h2 className="border-b border-ink pb-1 text-lg font-semibold">Account and links</h2>
      <div className="grid gap-x-12 gap-y-5 pt-3 lg:grid-cols-2">
        <div>
          {student.account ? (
            <p className="flex flex-wrap items-baseline gap-3" data-testid="account">
              <span>
                Signs in as <strong>{student.account}</strong>
              </span>
              <Button onClick={() => reset.mutate()} disabled={reset.isPending}>
                A link for a new password
              </Button>
            </p>
          ) : (
            <form
              className="flex flex-wrap items-end gap-3"
              data-testid="account"
              onSubmit={(event) => {
                event.preventDefault();
                invite.mutate();
              }}
            >
              <Field
                label="E-mail address (may be left out)"
                words
                type="email"
                className="w-64"
                value={email}
                onText={setEmail}
              />
              <Button type="submit" kind="strong" className="min-h-9" disabled={invite.isPending}>
                Invite {student.name}
              </Button>
            </form>
          )}
          {link && (
            <LinkOnce
              link={link.link}
              says={`${link.sent ? "It was mailed too. " : "Pass it on yourself. "}It works once; it is shown only now.`}
            />
          )}
          {(invite.error ?? reset.error ?? left.error) && (
            <Failed error={invite.error ?? reset.error ?? left.error} />
          )}
          <div className="mt-4 flex flex-wrap gap-2">
            <Button kind="quiet" onClick={() => setAsking("name")}>
              Name and hand
            </Button>
            <Button kind="quiet" onClick={() => setAsking("over")}>
              Hand over to a colleague
            </Button>
            <Button kind="quiet" disabled={left.isPending} onClick={() => left.mutate()}>
              {student.left_at ? "Take back in" : "Has left"}
            </Button>
            <Button kind="quiet" onClick={() => setAsking("delete")}>
              Delete for good
            </Button>
          </div>
        </div>
        <GuestLinks studentId={student.id} zone={me.zone} />
      </div>
      <Seen studentId={student.id} zone={me.zone} />
      {asking === "name" && <Rename student={student} onClose={() => setAsking(null)} />}
      {asking === "over" && <HandOver student={student} me={me} onClose={() => setAsking(null)} />}
      {asking === "delete" && <DeleteStudent student={student} onClose={() => setAsking(null)} />}
    </section>
  );
}

function Seen({ studentId, zone }: { studentId: number; zone: string }) {
  const [open, setOpen] = useState(false);
  const rows = useQuery({ ...auditQuery(studentId), enabled: open });
  return (
    <details className="mt-4" onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary className="cursor-pointer text-sm text-ink-soft">Activity log</summary>
      {rows.error && <Failed error={rows.error} onRetry={() => rows.refetch()} />}
      {rows.data && <AuditList rows={rows.data} zone={zone} />}
    </details>
  );
}
