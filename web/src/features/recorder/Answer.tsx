import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, data, type Take } from "~/api/client";
import { analysisQuery, isUnfinished, takeQuery, takesQuery } from "~/api/queries";
import { plansKey } from "~/api/week";
import { stageWords } from "~/lib/words";
import { Button, buttonClass } from "~/ui/Button";
import { Failed } from "~/ui/states";
import {
  findingWords,
  noteWords,
  placeWords,
  sheetNotes,
  tolerancesOf,
  worstNotes,
} from "~/ui/take/notes.math";

const MOST_WORST = 3;

/** What a take says at once: counts, the three worst places, and what to do with it. */
export function Answer({
  id,
  onAgain,
  studentId,
  drillId,
}: {
  id: string;
  onAgain: () => void;
  studentId: number | null;
  drillId: number;
}) {
  const take = useQuery({
    ...takeQuery(id),
    refetchInterval: (q) => (q.state.data && !isUnfinished(q.state.data) ? false : 200),
  });
  const queries = useQueryClient();
  const discard = useMutation({
    mutationFn: () => api.DELETE("/api/v1/takes/{take_id}", { params: { path: { take_id: id } } }),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: takesQuery.queryKey });
      onAgain();
    },
  });
  if (take.error) return <Failed error={take.error} onRetry={() => take.refetch()} />;
  const done = take.data !== undefined && !isUnfinished(take.data);
  return (
    <section aria-label="Result" data-testid="answer" data-state={take.data?.state ?? "waiting"}>
      {!done && (
        <p role="status" className="text-ink-soft">
          {take.data ? stageWords(take.data.stage) : "The take is there"} …
        </p>
      )}
      {done && take.data && <Found take={take.data} />}
      {done && studentId !== null && <LadderSays studentId={studentId} drillId={drillId} measured={id} />}
      <div className="mt-5 flex flex-wrap gap-2">
        <Button kind="strong" onClick={onAgain}>
          Again
        </Button>
        {done && (
          <Link className={buttonClass()} to={`/takes/${id}`}>
            Open the sheet
          </Link>
        )}
        <Button onClick={() => discard.mutate()} disabled={!done || discard.isPending}>
          Discard this take
        </Button>
      </div>
      {discard.error && <Failed error={discard.error} />}
    </section>
  );
}

/** What the ladder makes of it, where the drill is assigned. */
function LadderSays({
  studentId,
  drillId,
  measured,
}: {
  studentId: number;
  drillId: number;
  measured: string;
}) {
  const running = useQuery({
    queryKey: [...plansKey, "after", measured],
    queryFn: () =>
      data(api.GET("/api/v1/plans/assignments", { params: { query: { student_id: studentId } } })),
  });
  const mine = running.data?.find((a) => a.drill_id === drillId);
  if (!mine) return null;
  return (
    <p className="mt-4 max-w-prose border-l-2 border-rule-strong pl-3" data-testid="ladder">
      {mine.standing.says}
    </p>
  );
}

function Found({ take }: { take: Take }) {
  const measured = useQuery({
    ...analysisQuery(take.id, take.measured_at),
    enabled: take.state === "measured",
  });
  if (take.state !== "measured")
    return (
      <p role="alert" className="max-w-prose border-l-4 border-ink bg-sheet px-4 py-3">
        {take.problem?.detail ?? "This take could not be measured."} The recording is kept.
      </p>
    );
  const s = take.summary;
  const tolerances = measured.data && tolerancesOf(measured.data);
  const worst =
    measured.data && tolerances ? worstNotes(sheetNotes(measured.data), tolerances, MOST_WORST) : [];
  return (
    <>
      {s && (
        <p className="text-2xl font-bold" data-testid="counts">
          {s.clean} of {s.clean + s.not_clean + s.unclear + s.missed} clean
          <span className="ml-4 text-base font-normal text-ink-soft">
            {[
              s.not_clean && `${s.not_clean} not clean`,
              s.missed && `${s.missed} not heard`,
              s.unclear && `${s.unclear} cannot be told`,
            ]
              .filter(Boolean)
              .join(", ")}
          </span>
        </p>
      )}
      {worst.length > 0 && (
        <ol className="mt-3 max-w-xl" data-testid="worst">
          {worst.map((found) => (
            <li
              key={found.key}
              className="flex flex-wrap justify-between gap-x-4 border-b border-rule py-1.5"
            >
              <span>
                {noteWords(found)}, repeat {found.note.repeat + 1}, {placeWords(found.note)}
              </span>
              <strong>{tolerances && findingWords(found.note, tolerances)}</strong>
            </li>
          ))}
        </ol>
      )}
      {measured.data && worst.length === 0 && <p className="mt-2">Nothing stands out.</p>}
      {/* biome-ignore lint/a11y/useMediaCaption: a recording of a guitar has no words */}
      <audio
        className="mt-4 h-9 w-full max-w-xl"
        controls
        preload="none"
        src={`/api/v1/takes/${take.id}/sound`}
      />
    </>
  );
}
