import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, data, type Me, type Student } from "~/api/client";
import { studentsQuery } from "~/api/queries";
import { colleaguesQuery } from "~/api/week";
import { useAct } from "~/lib/useAct";
import { Button } from "~/ui/Button";
import { Dialog } from "~/ui/Dialog";
import { Field } from "~/ui/form/Field";
import { Tick } from "~/ui/form/Tick";
import { Select } from "~/ui/Select";
import { Failed } from "~/ui/states";

/** Another name, or the other hand. */
export function Rename({ student, onClose }: { student: Student; onClose: () => void }) {
  const [name, setName] = useState(student.name);
  const [leftHanded, setLeftHanded] = useState(student.left_handed);
  const rename = useAct(
    () =>
      api.PUT("/api/v1/students/{student_id}", {
        params: { path: { student_id: student.id } },
        body: { name, left_handed: leftHanded },
      }),
    [studentsQuery.queryKey],
    onClose,
  );
  return (
    <Dialog open onOpenChange={(now) => !now && onClose()} title="Name and hand">
      <form
        className="flex flex-wrap items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          rename.mutate();
        }}
      >
        <Field label="Name" words className="w-72" maxLength={120} value={name} onText={setName} />
        <Button kind="strong" type="submit" className="min-h-9" disabled={rename.isPending || !name.trim()}>
          Save
        </Button>
      </form>
      <Tick
        className="mt-3 min-h-9"
        label="plays left-handed: drawings of the neck are mirrored"
        checked={leftHanded}
        onChange={setLeftHanded}
      />
      {rename.error && <Failed error={rename.error} />}
    </Dialog>
  );
}

/** To another teacher of the studio. */
export function HandOver({ student, me, onClose }: { student: Student; me: Me; onClose: () => void }) {
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

/** For good, after a question. */
export function DeleteStudent({ student, onClose }: { student: Student; onClose: () => void }) {
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
