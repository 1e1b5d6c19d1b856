import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { type Me, Problem } from "~/api/client";
import { drillsQuery, guitarsQuery, presentStudentsQuery, takesQuery } from "~/api/queries";
import { uploadTake } from "~/api/upload";
import { megabytes } from "~/lib/words";
import { Button } from "~/ui/Button";
import { AskToRecord } from "~/ui/consent/AskToRecord";
import { Dialog } from "~/ui/Dialog";
import { Select } from "~/ui/Select";
import { Failed } from "~/ui/states";

const KEPT = "fortimetra.lastUpload";

interface Choice {
  student: string;
  drill: string;
  guitar?: string | undefined;
}

/** A set-up take is of one guitar, and of no drill. */
export interface SetUpOf {
  studentId: number;
  guitarId: number;
  name: string;
}

function lastChoice(): Choice {
  try {
    return JSON.parse(localStorage.getItem(KEPT) ?? "") as Choice;
  } catch {
    return { student: "", drill: "" };
  }
}

export interface UploadDialogProps {
  me: Me;
  file: File;
  drillId?: number | undefined;
  setUpOf?: SetUpOf | undefined;
  onClose: () => void;
}

/** Who played what; then the file goes out, and the take's sheet opens. */
export function UploadDialog({ me, file, drillId, setUpOf, onClose }: UploadDialogProps) {
  const students = useQuery(presentStudentsQuery);
  const drills = useQuery(drillsQuery);
  const [choice, setChoice] = useState<Choice>(() => ({
    ...lastChoice(),
    ...(drillId ? { drill: String(drillId) } : {}),
  }));
  const guitars = useQuery({
    ...guitarsQuery(Number(choice.student)),
    enabled: !setUpOf && Number(choice.student) > 0,
  });
  const owned = choice.student ? (guitars.data ?? []) : [];
  const guitar = owned.find((g) => String(g.id) === choice.guitar) ?? owned[0];
  const [fraction, setFraction] = useState(0);
  const abort = useRef(new AbortController());
  const queries = useQueryClient();
  const navigate = useNavigate();
  const tooLarge = file.size > me.upload_max_bytes;
  const send = useMutation({
    mutationFn: () => {
      abort.current = new AbortController();
      return uploadTake(
        setUpOf
          ? { file, studentId: setUpOf.studentId, guitarId: setUpOf.guitarId, drillId: null }
          : {
              file,
              studentId: Number(choice.student),
              drillId: Number(choice.drill),
              guitarId: guitar?.id ?? null,
            },
        setFraction,
        abort.current.signal,
      );
    },
    onSuccess: (take) => {
      if (!setUpOf) localStorage.setItem(KEPT, JSON.stringify(choice));
      void queries.invalidateQueries({ queryKey: takesQuery.queryKey });
      navigate(`/takes/${take.id}`);
      onClose();
    },
  });
  useEffect(() => () => abort.current.abort(), []);

  // What is put away is offered only where its own page asks for it.
  const offered = (drills.data ?? []).filter((d) => !d.archived || d.id === drillId);
  const chosen = students.data?.find(
    (s) => String(s.id) === (setUpOf ? String(setUpOf.studentId) : choice.student),
  );
  const known = {
    student: setUpOf !== undefined || chosen !== undefined,
    agreed: !chosen || chosen.agreed,
    drill: setUpOf !== undefined || offered.some((d) => String(d.id) === choice.drill),
  };
  return (
    <Dialog open onOpenChange={(open) => !open && onClose()} title="Add a recording">
      <p className="mb-4 break-all">
        <span className="font-semibold">{file.name}</span>{" "}
        <span className="figures text-sm text-ink-soft">{megabytes(file.size)}</span>
      </p>
      <form
        className="flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          send.mutate();
        }}
      >
        {setUpOf ? (
          <p>
            A set-up take of <strong>{setUpOf.name}</strong>: each open string and its 12th fret, lowest
            string first.
          </p>
        ) : (
          <>
            <Select
              label="Who plays"
              value={known.student ? choice.student : ""}
              onChange={(student) => setChoice({ ...choice, student })}
              choices={(students.data ?? []).map((s) => ({ value: String(s.id), label: s.name }))}
            />
            <Select
              label="Which drill"
              value={known.drill ? choice.drill : ""}
              onChange={(drill) => setChoice({ ...choice, drill })}
              choices={offered.map((d) => ({ value: String(d.id), label: d.title }))}
            />
            {owned.length > 0 && (
              <Select
                label="On which guitar"
                value={String(guitar?.id ?? "")}
                onChange={(id) => setChoice({ ...choice, guitar: id })}
                choices={owned.map((g) => ({ value: String(g.id), label: g.name }))}
              />
            )}
          </>
        )}
        {chosen && !known.agreed && <AskToRecord student={chosen} me={me} />}
        {students.data?.length === 0 && <p>Add a student first, on the Students page.</p>}
        {tooLarge && (
          <Failed
            error={
              new Problem(
                413,
                "too_large",
                `The file has ${megabytes(file.size)}; at most ${megabytes(me.upload_max_bytes)} are taken. Export it as FLAC or cut it to the exercise.`,
              )
            }
          />
        )}
        {send.error && send.error.name !== "AbortError" && <Failed error={send.error} />}
        {send.isPending && (
          <div role="status">
            <progress className="h-2 w-full accent-ink" max={1} value={fraction} aria-label="Sent so far" />
            <p className="text-sm text-ink-soft">
              {fraction < 1 ? `Sending, ${Math.round(fraction * 100)} %` : "Sent, being stored"}
            </p>
          </div>
        )}
        <div className="flex justify-end gap-3">
          <Button onClick={onClose}>Cancel</Button>
          <Button
            kind="strong"
            type="submit"
            disabled={send.isPending || tooLarge || !known.student || !known.drill || !known.agreed}
          >
            Measure it
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
