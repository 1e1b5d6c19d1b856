import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, data, isStillWritten, type Me, Problem, type Take } from "~/api/client";
import {
  analysisQuery,
  curvesQuery,
  drillsQuery,
  isUnfinished,
  NO_CURVES,
  soundQuery,
  takeQuery,
  takesQuery,
} from "~/api/queries";
import { useJudge } from "~/lib/useJudge";
import { stageWords } from "~/lib/words";
import { Button } from "~/ui/Button";
import { Select } from "~/ui/Select";
import { Empty, Failed, Loading } from "~/ui/states";
import { DeleteTake } from "./DeleteTake";
import { type Judging, TakeHead } from "./TakeHead";
import { TakeSheet } from "./TakeSheet";
import { useNextTake } from "./useNextTake";
import { WhichDrill } from "./WhichDrill";

/** The take of the address; what was said of one is not shown with the next. */
export function TakePage({ me }: { me: Me }) {
  const { id = "" } = useParams();
  return <OneTake key={id} id={id} me={me} />;
}

/** A take in whatever state it is. */
function OneTake({ id, me }: { id: string; me: Me }) {
  const take = useQuery(takeQuery(id));
  const judging = useJudging(id, take.data, me.role === "teacher");
  if (take.isPending) return <Loading what="the take" />;
  if (isGone(take.error)) return <Gone />;
  if (take.error) return <Failed error={take.error} onRetry={() => take.refetch()} />;
  return (
    <>
      <TakeHead take={take.data} zone={me.zone} judging={judging} />
      {isUnfinished(take.data) && <Measuring take={take.data} />}
      {(take.data.state === "refused" || take.data.state === "failed") && (
        <NotMeasured student={me.role === "student"} take={take.data} />
      )}
      {take.data.state === "measured" && <Measured id={id} take={take.data} me={me} judging={judging} />}
    </>
  );
}

/** Whether an answer says that the take is not there: deleted, or never theirs. */
const isGone = (error: Error | null) => error instanceof Problem && error.status === 404;

/** Deleted while somebody looked at it, or never theirs. */
function Gone() {
  return (
    <Empty title="This take is not here any more">
      It may have been deleted by the student or in another tab. What was said of other takes is kept.{" "}
      <Link className="underline" to="/">
        Back to the Desk
      </Link>
    </Empty>
  );
}

/** Judged as it stands, then the next of the Desk; null for who may not. */
function useJudging(id: string, take: Take | undefined, teacher: boolean): Judging | null {
  const next = useNextTake(id, teacher);
  const [problem, setProblem] = useState<string | null>(null);
  const judge = useJudge((answer, asked) => {
    if (answer.changed.includes(id)) {
      setProblem(
        "This take was changed meanwhile, in another tab or by somebody else. It is shown as it is now: look again, then confirm.",
      );
      return;
    }
    setProblem(null);
    if (asked.judged) next.go();
  });
  const { prepare } = next;
  useEffect(prepare, [prepare]);
  if (!take || !teacher) return null;
  const wanted = (judged: boolean) => ({ takes: [{ id, word_version: take.word_version }], judged });
  return {
    judge: () => {
      if (judge.isPending) return;
      if (take.judged_at) next.go();
      else judge.mutate(wanted(true));
    },
    unjudge: () => judge.mutate(wanted(false)),
    left: next.left,
    pending: judge.isPending,
    problem: problem ?? (judge.error instanceof Error ? judge.error.message : null),
  };
}

function Measured({ id, take, me, judging }: { id: string; take: Take; me: Me; judging: Judging | null }) {
  const analysis = useQuery(analysisQuery(id, take.measured_at));
  const curves = useQuery(curvesQuery(id, take.measured_at));
  const sound = useQuery({ ...soundQuery(id), enabled: !take.recording_deleted_at });
  // A worker still writes what is drawn and played: the verdicts are there before it.
  const error = analysis.error ?? (isStillWritten(curves.error) ? null : curves.error);
  // Another tab, or somebody else, has said something since: what they said is shown here too.
  const behind = analysis.data && analysis.data.take.word_version < take.word_version;
  const { refetch } = analysis;
  useEffect(() => {
    if (behind) void refetch();
  }, [behind, refetch]);
  // Then its head is not to be pressed either: the page asks for the take itself.
  const gone = isGone(error);
  const queries = useQueryClient();
  useEffect(() => {
    if (gone) void queries.invalidateQueries({ queryKey: takeQuery(id).queryKey });
  }, [gone, queries, id]);
  if (gone) return <Gone />;
  if (error)
    return <Failed error={error} onRetry={() => void Promise.all([analysis.refetch(), curves.refetch()])} />;
  if (!analysis.data) return <Loading what="the sheet" />;
  return (
    <TakeSheet
      key={`${id} ${take.measured_at}`}
      me={me}
      measured={analysis.data}
      curves={curves.data ?? NO_CURVES}
      sound={sound.data}
      soundError={isStillWritten(sound.error) ? null : sound.error}
      judging={judging}
    />
  );
}

function Measuring({ take }: { take: Take }) {
  const waiting = take.state !== "measuring";
  return (
    <div role="status" className="my-10 max-w-xl">
      <p className="text-lg font-semibold">
        {waiting ? "Waiting for its turn" : `Measuring: ${stageWords(take.stage)}`}
      </p>
      <progress
        className="mt-2 h-2 w-full accent-ink"
        max={1}
        aria-label="Measured so far"
        {...(waiting ? {} : { value: take.fraction })}
      />
      <p className="mt-2 text-ink-soft">
        The recording is stored. You may leave this page; the take will be on the Desk.
      </p>
    </div>
  );
}

function NotMeasured({ take, student }: { take: Take; student: boolean }) {
  const drills = useQuery(drillsQuery);
  const [drill, setDrill] = useState(String(take.drill_id));
  const queries = useQueryClient();
  const navigate = useNavigate();
  const again = useMutation({
    mutationFn: () =>
      data(
        api.POST("/api/v1/takes/{take_id}/measure", {
          params: { path: { take_id: take.id } },
          body: { drill_id: Number(drill) },
        }),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: takesQuery.queryKey }),
  });
  return (
    <section className="my-8 max-w-2xl" data-testid="not-measured">
      <div role="alert" className="border-l-4 border-ink bg-sheet px-5 py-4">
        <h2 className="text-lg font-semibold">
          {take.state === "refused" ? "This take cannot be measured" : "Measuring broke off"}
        </h2>
        <p className="mt-1" data-code={take.problem?.code}>
          {take.problem?.detail}
        </p>
      </div>
      <p className="mt-4 text-ink-soft">
        The recording is kept as it was sent:{" "}
        <a className="underline" href={`/api/v1/takes/${take.id}/original`}>
          {take.original_name}
        </a>
      </p>
      <div className="mt-5 flex flex-wrap items-end gap-3">
        <div className="w-80">
          <Select
            label="Measure it against"
            value={drill}
            onChange={setDrill}
            choices={(drills.data ?? []).map((d) => ({ value: String(d.id), label: d.title }))}
          />
        </div>
        <Button kind="strong" className="min-h-9" onClick={() => again.mutate()} disabled={again.isPending}>
          Measure again
        </Button>
        <DeleteTake student={student} take={take} onDeleted={() => navigate("/")} />
      </div>
      {again.error && <Failed error={again.error} />}
      {take.problem?.code === "wrong_drill" && (
        <div className="mt-5">
          <WhichDrill
            takeId={take.id}
            drillId={take.drill_id}
            act="Choose it"
            onChoose={(drillId) => setDrill(String(drillId))}
          />
        </div>
      )}
      <p className="mt-6">
        <Link className="underline" to="/">
          Back to the Desk
        </Link>
      </p>
    </section>
  );
}
