import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo, useRef, useState } from "react";
import { type Me, Problem } from "~/api/client";
import { drillsQuery, guitarsQuery, presentStudentsQuery, takesQuery } from "~/api/queries";
import { uploadTake } from "~/api/upload";
import { megabytes } from "~/lib/words";
import { Button } from "../Button";
import { Dialog } from "../Dialog";
import { Select } from "../Select";
import { guess } from "./guess.math";
import { useHearing } from "./useHearing";

export interface Row {
  student: string;
  drill: string;
  state: "waiting" | "sending" | "sent" | "refused";
  why: string;
  /** Where its drill is from, while that is worth saying. */
  heard?: string;
}

export interface ManyDialogProps {
  me: Me;
  files: File[];
  drillId?: number | undefined;
  /** Of files that were recorded in the page. */
  recorded?: { at: string; capture: string };
  /** A file has reached the server. */
  onSent?: (file: File) => void;
  onClose: () => void;
}

/** Several recordings at once: who and what is guessed from their names, looked over, and sent one after the other. */
export function ManyDialog({ me, files, drillId, recorded, onSent, onClose }: ManyDialogProps) {
  const students = useQuery(presentStudentsQuery);
  const drills = useQuery(drillsQuery);
  const queries = useQueryClient();
  const offered = useMemo(
    () => (drills.data ?? []).filter((d) => !d.archived || d.id === drillId),
    [drills.data, drillId],
  );
  const [changes, setChanges] = useState<Record<number, Partial<Row>>>({});
  const [sending, setSending] = useState(false);
  const abort = useRef(new AbortController());
  const rows = files.map((file, i): Row => {
    const student = guess(file.name, students.data ?? []);
    const drill =
      drillId ??
      guess(
        file.name,
        offered.map((d) => ({ id: d.id, name: d.title })),
      )?.id;
    const only = students.data?.length === 1 ? students.data[0] : undefined;
    return {
      student: String(student?.id ?? only?.id ?? ""),
      drill: String(drill ?? ""),
      state: file.size > me.upload_max_bytes ? "refused" : "waiting",
      why: file.size > me.upload_max_bytes ? `It has more than ${megabytes(me.upload_max_bytes)}.` : "",
      ...changes[i],
    };
  });
  const set = (i: number, part: Partial<Row>) =>
    setChanges((before) => ({ ...before, [i]: { ...before[i], ...part } }));
  useHearing(
    files,
    (i) => rows[i]?.drill === "" && rows[i]?.state === "waiting",
    drills.isSuccess,
    (i, part) =>
      // What a person has chosen meanwhile stays.
      setChanges((before) => (before[i]?.drill ? before : { ...before, [i]: { ...before[i], ...part } })),
  );
  const open = rows.filter((row) => row.state === "waiting" || row.state === "refused");
  const complete = rows.every((row) => row.state !== "waiting" || (row.student !== "" && row.drill !== ""));
  const send = async () => {
    setSending(true);
    for (const [i, row] of rows.entries()) {
      const file = files[i];
      if (!file || row.state !== "waiting") continue;
      set(i, { state: "sending", why: "" });
      try {
        const owned = await queries.fetchQuery(guitarsQuery(Number(row.student)));
        await uploadTake(
          {
            file,
            studentId: Number(row.student),
            drillId: Number(row.drill),
            guitarId: owned[0]?.id ?? null,
            recorded,
          },
          () => {},
          abort.current.signal,
        );
        set(i, { state: "sent" });
        onSent?.(file);
      } catch (error) {
        // What did not arrive may be sent again as it is; what the server will not have needs something changed.
        const lost = !(error instanceof Problem) || error.status === 0 || error.status >= 500;
        const why = error instanceof Error ? error.message : "It was not sent.";
        set(i, { state: lost ? "waiting" : "refused", why });
      }
    }
    setSending(false);
    void queries.invalidateQueries({ queryKey: takesQuery.queryKey });
  };
  const sent = rows.filter((row) => row.state === "sent").length;
  return (
    <Dialog
      open
      onOpenChange={(on) => {
        if (on) return;
        abort.current.abort();
        onClose();
      }}
      title={files.length === 1 ? "Add a recording" : `Add ${files.length} recordings`}
      description="Who plays and which drill are guessed from the names, or from the notes; look them over."
    >
      <ul>
        {files.map((file, i) => {
          const row = rows[i] as Row;
          return (
            <li
              // biome-ignore lint/suspicious/noArrayIndexKey: the files stay in their order, and two may be alike
              key={i}
              className="border-b border-rule py-3"
              data-testid="one-of-many"
              data-state={row.state}
            >
              <p className="mb-2 flex flex-wrap justify-between gap-x-4 break-all">
                <span className="font-semibold">{file.name}</span>
                <span className="text-sm text-ink-soft">
                  {row.state === "sent"
                    ? "sent"
                    : row.state === "sending"
                      ? "sending …"
                      : megabytes(file.size)}
                </span>
              </p>
              {row.state !== "sent" && (
                <div className="grid grid-cols-2 gap-3">
                  <Select
                    label="Who plays"
                    value={row.student}
                    onChange={(student) => set(i, { student, state: "waiting", why: "" })}
                    choices={(students.data ?? []).map((s) => ({ value: String(s.id), label: s.name }))}
                  />
                  <Select
                    label="Which drill"
                    value={row.drill}
                    onChange={(drill) => set(i, { drill, state: "waiting", why: "", heard: "" })}
                    choices={offered.map((d) => ({ value: String(d.id), label: d.title }))}
                  />
                </div>
              )}
              {row.heard && <p className="mt-2 text-sm text-ink-soft">{row.heard}</p>}
              {row.why && (
                <p role="alert" className="mt-2 border-l-4 border-ink pl-3 text-sm">
                  {row.why}
                </p>
              )}
            </li>
          );
        })}
      </ul>
      <div className="mt-4 flex items-center justify-end gap-3">
        <span className="mr-auto text-sm text-ink-soft" role="status">
          {sent > 0 ? `${sent} of ${files.length} sent` : ""}
        </span>
        <Button onClick={onClose}>{open.length === 0 ? "Done" : "Cancel"}</Button>
        {open.length > 0 && (
          <Button kind="strong" onClick={() => void send()} disabled={sending || !complete}>
            {files.length === 1 ? "Measure it" : "Measure them"}
          </Button>
        )}
      </div>
    </Dialog>
  );
}
