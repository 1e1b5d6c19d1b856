import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, data, type Me, type Take } from "~/api/client";
import {
  analysisQuery,
  curvesQuery,
  drillsQuery,
  isUnfinished,
  soundQuery,
  takeQuery,
  takesQuery,
} from "~/api/queries";
import { stageWords } from "~/lib/words";
import { Button } from "~/ui/Button";
import { Select } from "~/ui/Select";
import { Failed, Loading } from "~/ui/states";
import { DeleteTake } from "./DeleteTake";
import { TakeHead } from "./TakeHead";
import { TakeSheet } from "./TakeSheet";

/** A take in whatever state it is. */
export function TakePage({ me }: { me: Me }) {
  const { id = "" } = useParams();
  const take = useQuery(takeQuery(id));
  if (take.isPending) return <Loading what="the take" />;
  if (take.error) return <Failed error={take.error} onRetry={() => take.refetch()} />;
  return (
    <>
      <TakeHead take={take.data} zone={me.zone} />
      {isUnfinished(take.data) && <Measuring take={take.data} />}
      {(take.data.state === "refused" || take.data.state === "failed") && <NotMeasured take={take.data} />}
      {take.data.state === "measured" && <Measured id={id} take={take.data} me={me} />}
    </>
  );
}

function Measured({ id, take, me }: { id: string; take: Take; me: Me }) {
  const analysis = useQuery(analysisQuery(id, take.measured_at));
  const curves = useQuery(curvesQuery(id, take.measured_at));
  const sound = useQuery(soundQuery(id));
  const error = analysis.error ?? curves.error;
  if (error)
    return <Failed error={error} onRetry={() => void Promise.all([analysis.refetch(), curves.refetch()])} />;
  if (!analysis.data || !curves.data) return <Loading what="the sheet" />;
  return (
    <TakeSheet
      key={`${id} ${take.measured_at}`}
      me={me}
      measured={analysis.data}
      curves={curves.data}
      sound={sound.data}
      soundError={sound.error}
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

function NotMeasured({ take }: { take: Take }) {
  const drills = useQuery(drillsQuery);
  const [drill, setDrill] = useState(String(take.drill_id));
  const queries = useQueryClient();
  const navigate = useNavigate();
  const again = useMutation({
    mutationFn: () =>
      data<Take>(
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
        <DeleteTake take={take} onDeleted={() => navigate("/")} />
      </div>
      {again.error && <Failed error={again.error} />}
      <p className="mt-6">
        <Link className="underline" to="/">
          Back to the Desk
        </Link>
      </p>
    </section>
  );
}
