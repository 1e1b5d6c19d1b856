import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Me, Take } from "~/api/client";
import { isUnfinished, studentsQuery, takesQuery } from "~/api/queries";
import { Select } from "~/ui/Select";
import { Empty, Failed, Loading } from "~/ui/states";
import { UploadButton } from "~/ui/upload/UploadButton";
import { TakeRow } from "./TakeRow";

const EVERYBODY = "all";

export function Desk({ me }: { me: Me }) {
  const takes = useQuery(takesQuery);
  const students = useQuery(studentsQuery);
  const [student, setStudent] = useState(EVERYBODY);
  const shown = (takes.data ?? []).filter((t) => student === EVERYBODY || String(t.student_id) === student);
  return (
    <>
      <div className="mb-4 flex flex-wrap items-end gap-4">
        <div className="mr-auto">
          <h1 className="text-2xl font-bold">Desk</h1>
          <p className="text-ink-soft">{takes.data ? deskWords(takes.data) : " "}</p>
        </div>
        {(students.data?.length ?? 0) > 1 && (
          <div className="w-56">
            <Select
              label="Show"
              value={student}
              onChange={setStudent}
              choices={[
                { value: EVERYBODY, label: "All students" },
                ...(students.data ?? []).map((s) => ({ value: String(s.id), label: s.name })),
              ]}
            />
          </div>
        )}
        <UploadButton me={me} />
      </div>
      {takes.isPending && <Loading what="takes" />}
      {takes.error && <Failed error={takes.error} onRetry={() => takes.refetch()} />}
      {takes.data && shown.length === 0 && (
        <Empty title="No takes here yet">
          Drop a recording anywhere on this page, or use “Add a recording” (key U). WAV, FLAC, AIFF, OGG,
          Opus, WebM, MP3 and M4A are read, up to {me.upload_max_bytes / 1e6} MB and {me.take_max_minutes}{" "}
          minutes.
        </Empty>
      )}
      {shown.length > 0 && <TakeTable takes={shown} zone={me.zone} />}
    </>
  );
}

function deskWords(takes: Take[]): string {
  const open = takes.filter(isUnfinished).length;
  const refused = takes.filter((t) => t.state === "refused" || t.state === "failed").length;
  const parts = [`${takes.length} ${takes.length === 1 ? "take" : "takes"}`];
  if (open) parts.push(`${open} being measured`);
  if (refused) parts.push(`${refused} that could not be measured`);
  return parts.join(", ");
}

function TakeTable({ takes, zone }: { takes: Take[]; zone: string }) {
  const head = "border-b border-ink py-1 pr-4 text-left text-sm font-normal text-ink-soft";
  return (
    <table className="w-full border-collapse">
      <thead>
        <tr>
          <th className={head}>Student</th>
          <th className={head}>Played</th>
          <th className={head}>Drill</th>
          <th className={head}>Note by note</th>
          <th className={head}>Result</th>
        </tr>
      </thead>
      <tbody>
        {takes.map((take) => (
          <TakeRow key={take.id} take={take} zone={zone} />
        ))}
      </tbody>
    </table>
  );
}
