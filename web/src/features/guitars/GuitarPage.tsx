import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "react-router";
import { api, type Me, type SetupRead } from "~/api/client";
import { guitarQuery, setUpsQuery } from "~/api/queries";
import { dayAndTime } from "~/lib/words";
import { Button } from "~/ui/Button";
import { SetupResult } from "~/ui/setup/SetupResult";
import { Failed, Loading } from "~/ui/states";
import { UploadButton } from "~/ui/upload/UploadButton";
import { GuitarFormView } from "./GuitarFormView";

/** One guitar: what its newest set-up take says, and its description. */
export function GuitarPage({ me }: { me: Me }) {
  const id = Number(useParams().id);
  const guitar = useQuery(guitarQuery(id));
  const setUps = useQuery(setUpsQuery(id));
  if (guitar.isPending) return <Loading what="the guitar" />;
  if (guitar.error) return <Failed error={guitar.error} onRetry={() => guitar.refetch()} />;
  const { name, student, student_id } = guitar.data;
  return (
    <>
      <p className="text-sm text-ink-soft">
        <Link className="underline" to="/students">
          Students
        </Link>{" "}
        /{" "}
        <Link className="underline" to={`/students/${student_id}`}>
          {student}
        </Link>
      </p>
      <div className="mb-5 flex flex-wrap items-end gap-4">
        <h1 className="mr-auto text-2xl font-bold">{name}</h1>
        <Link className="underline" to={`/bench/targets?guitar=${id}`}>
          Bend targets on it
        </Link>
        <UploadButton
          me={me}
          setUpOf={{ studentId: student_id, guitarId: id, name }}
          label="Add a set-up take"
        />
      </div>
      <h2 className="mb-2 border-b border-ink pb-1 text-lg font-semibold">Set-up</h2>
      {setUps.isPending && <Loading what="its set-up takes" />}
      {setUps.error && <Failed error={setUps.error} onRetry={() => setUps.refetch()} />}
      {setUps.data && <SetUps setUps={setUps.data} zone={me.zone} />}
      <h2 className="mt-9 mb-4 border-b border-ink pb-1 text-lg font-semibold">Description</h2>
      <GuitarFormView key={id} guitar={guitar.data} />
      <DeleteGuitar id={id} studentId={student_id} />
    </>
  );
}

function SetUps({ setUps, zone }: { setUps: SetupRead[]; zone: string }) {
  const [newest, ...older] = setUps;
  if (!newest) {
    return (
      <p className="max-w-prose py-3 text-ink-soft">
        No set-up take yet. Let the guitar be silent for two seconds, then play each string open and at its
        12th fret, the lowest first, two seconds each, and stop it. Drop the recording here: from then on
        takes are read against this guitar, and what is the guitar’s fault is told from what is the hand’s.
      </p>
    );
  }
  return (
    <>
      <p className="mb-2 text-sm text-ink-soft">
        <Link className="underline" to={`/takes/${newest.take_id}`}>
          {dayAndTime(newest.played_at, zone)}
        </Link>
        {older.length > 0 && ", before that "}
        {older.map((one, i) => (
          <span key={one.take_id}>
            {i > 0 && ", "}
            <Link className="underline" to={`/takes/${one.take_id}`}>
              {dayAndTime(one.played_at, zone)}
            </Link>
          </span>
        ))}
      </p>
      <SetupResult found={newest.found} hum={newest.hum} floorDbfs={newest.noise_floor_dbfs} />
    </>
  );
}

function DeleteGuitar({ id, studentId }: { id: number; studentId: number }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const remove = useMutation({
    mutationFn: async () => {
      await api.DELETE("/api/v1/guitars/{guitar_id}", { params: { path: { guitar_id: id } } });
    },
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ["guitars"] });
      navigate(`/students/${studentId}`);
    },
  });
  return (
    <details className="mt-8 text-sm">
      <summary className="cursor-pointer text-ink-soft">Delete this guitar</summary>
      <p className="my-2">Its takes stay, without a guitar. Its set-up takes are no longer used.</p>
      <Button onClick={() => remove.mutate()} disabled={remove.isPending}>
        Delete the guitar for good
      </Button>
      {remove.error && <Failed error={remove.error} />}
    </details>
  );
}
