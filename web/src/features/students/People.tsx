import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, data, type Me, type Student } from "~/api/client";
import { studentsQuery } from "~/api/queries";
import { auditQuery, colleaguesQuery } from "~/api/week";
import { useAct } from "~/lib/useAct";
import { AuditList } from "~/ui/AuditList";
import { Button } from "~/ui/Button";
import { Dialog } from "~/ui/Dialog";
import { Field } from "~/ui/form/Field";
import { LinkOnce } from "~/ui/LinkOnce";
import { Select } from "~/ui/Select";
import { Failed } from "~/ui/states";
import { GuestLinks } from "./GuestLinks";

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
          {(invite.error ?? reset.error) && <Failed error={invite.error ?? reset.error} />}
          <div className="mt-4 flex flex-wrap gap-2">
            <Button kind="quiet" onClick={() => setAsking("name")}>
              Another name
            </Button>
            <Button kind="quiet" onClick={() => setAsking("over")}>
              Hand over to a colleague
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
      <summary className="cursor-pointer text-sm text-ink-soft">Who saw or changed what</summary>
      {rows.error && <Failed error={rows.error} onRetry={() => rows.refetch()} />}
      {rows.data && <AuditList rows={rows.data} zone={zone} />}
    </details>
  );
}

function Rename({ student, onClose }: { student: Student; onClose: () => void }) {
  const [name, setName] = useState(student.name);
  const rename = useAct(
    () =>
      api.PUT("/api/v1/students/{student_id}", {
        params: { path: { student_id: student.id } },
        body: { name },
      }),
    [studentsQuery.queryKey],
    onClose,
  );
  return (
    <Dialog open onOpenChange={(now) => !now && onClose()} title="Another name">
      <form
        className="flex items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          rename.mutate();
        }}
      >
        <Field label="Name" words className="w-72" maxLength={120} value={name} onText={setName} />
        <Button kind="strong" type="submit" className="min-h-9" disabled={rename.isPending || !name.trim()}>
          Keep
        </Button>
      </form>
      {rename.error && <Failed error={rename.error} />}
    </Dialog>
  );
}

function HandOver({ student, me, onClose }: { student: Student; me: Me; onClose: () => void }) {
  const colleagues = useQuery(colleaguesQuery);
  const [to, setTo] = useState("");
  const navigate = useNavigate();
  const others = (colleagues.data ?? []).filter((c) => c.email !== me.email);
  const over = useAct(
    () =>
      api.POST("/api/v1/students/{student_id}/hand-over", {
        params: { path: { student_id: student.id } },
        body: { teacher_id: Number(to) },
      }),
    [studentsQuery.queryKey, ["takes"]],
    () => navigate("/students"),
  );
  return (
    <Dialog
      open
      onOpenChange={(now) => !now && onClose()}
      title={`Hand ${student.name} over`}
      description="The new teacher sees everything of the student from then on; you no longer do."
    >
      {colleagues.data && others.length === 0 ? (
        <p>You teach alone in this studio. Who leads it can invite another teacher.</p>
      ) : (
        <Select
          label="To"
          value={to}
          onChange={setTo}
          choices={others.map((c) => ({ value: String(c.id), label: c.name }))}
        />
      )}
      {over.error && <Failed error={over.error} />}
      <div className="mt-5 flex justify-end gap-3">
        <Button onClick={onClose}>Back</Button>
        <Button kind="strong" onClick={() => over.mutate()} disabled={!to || over.isPending}>
          Hand over
        </Button>
      </div>
    </Dialog>
  );
}

function DeleteStudent({ student, onClose }: { student: Student; onClose: () => void }) {
  const [typed, setTyped] = useState("");
  const navigate = useNavigate();
  const remove = useAct(
    () =>
      data(
        api.DELETE("/api/v1/reports/students/{student_id}", { params: { path: { student_id: student.id } } }),
      ),
    [["takes"]],
  );
  const leave = useAct(async () => navigate("/students"), [studentsQuery.queryKey]);
  if (remove.data)
    return (
      <Dialog open onOpenChange={() => leave.mutate()} title={`${student.name} is deleted`}>
        <p data-testid="remains">{remove.data.says}</p>
        <div className="mt-5 flex justify-end">
          <Button kind="strong" onClick={() => leave.mutate()}>
            Back to the students
          </Button>
        </div>
      </Dialog>
    );
  return (
    <Dialog
      open
      onOpenChange={(now) => !now && onClose()}
      title={`Delete ${student.name} for good?`}
      description="Recordings, everything measured in them, guitars, plans, logbook, lesson sheets and the account are deleted. This cannot be taken back; take what should be kept out first."
    >
      <Field label={`Type ${student.name} to go on`} words value={typed} onText={setTyped} />
      {remove.error && <Failed error={remove.error} />}
      <div className="mt-5 flex justify-end gap-3">
        <Button onClick={onClose}>Keep everything</Button>
        <Button
          kind="strong"
          disabled={typed.trim() !== student.name || remove.isPending}
          onClick={() => remove.mutate()}
        >
          Delete for good
        </Button>
      </div>
    </Dialog>
  );
}
