import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { ladderQuery, type Step } from "~/api/week";
import { day } from "~/lib/words";
import { Button } from "~/ui/Button";
import { Dialog } from "~/ui/Dialog";
import { Field } from "~/ui/form/Field";
import { Select } from "~/ui/Select";
import { Failed, Loading } from "~/ui/states";
import { stepWords } from "./step.math";
import { useSteps } from "./useSteps";

/** One ladder: where the drill stands, why, how it came there; and the teacher's own step. */
export function LadderDialog({
  id,
  teacher,
  zone,
  onClose,
}: {
  id: number;
  teacher: boolean;
  zone: string;
  onClose: () => void;
}) {
  const ladder = useQuery(ladderQuery(id));
  return (
    <Dialog
      open
      onOpenChange={(now) => !now && onClose()}
      title={ladder.data ? ladder.data.assignment.drill : "Ladder"}
      wide
    >
      {ladder.isPending && <Loading what="the ladder" />}
      {ladder.error && <Failed error={ladder.error} onRetry={() => ladder.refetch()} />}
      {ladder.data && (
        <>
          <p className="mb-3" data-testid="ladder-says">
            {ladder.data.assignment.standing.says}
          </p>
          <p className="mb-4 text-sm">
            {ladder.data.assignment.standing.takes.map((take, i, all) => (
              <span key={take}>
                {i === 0 && "It rests on "}
                <Link className="underline" to={`/takes/${take}`}>
                  take {i + 1}
                </Link>
                {i < all.length - 1 ? ", " : "."}
              </span>
            ))}
          </p>
          {teacher && <OwnStep id={id} steps={ladder.data.steps} now={ladder.data.assignment.step} />}
          <h3 className="mt-4 border-b border-ink pb-1 font-semibold">Steps so far</h3>
          {ladder.data.history.length === 0 && (
            <p className="py-2 text-ink-soft">
              None yet; it began at {ladder.data.assignment.step_words} on{" "}
              {day(ladder.data.assignment.step_since, zone)}.
            </p>
          )}
          <ul>
            {ladder.data.history.map((move) => (
              <li
                key={move.at}
                className="grid grid-cols-[7rem_minmax(0,1fr)] gap-4 border-b border-rule py-2 text-sm"
              >
                <span className="text-ink-soft">{day(move.at, zone)}</span>
                <span>
                  {move.says}{" "}
                  {move.move !== "set" && move.move !== "put_off" && (
                    <span className="text-ink-soft">
                      ({move.made_by ? `confirmed by ${move.made_by}` : "by the rule"})
                    </span>
                  )}
                </span>
              </li>
            ))}
          </ul>
        </>
      )}
    </Dialog>
  );
}

function OwnStep({ id, steps, now }: { id: number; steps: Step[]; now: Step }) {
  const actions = useSteps(id);
  const [chosen, setChosen] = useState("");
  const [why, setWhy] = useState("");
  const choices = steps
    .map((step, i) => ({ step, value: String(i) }))
    .filter(({ step }) => stepWords(step) !== stepWords(now));
  const step = choices.find((c) => c.value === chosen)?.step;
  if (choices.length === 0) return null;
  return (
    <form
      className="flex flex-wrap items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        if (step) actions.set.mutate({ step, why }, { onSuccess: () => setChosen("") });
      }}
    >
      <div className="w-56">
        <Select
          label="Your own step"
          value={chosen}
          onChange={setChosen}
          choices={choices.map((c) => ({ value: c.value, label: stepWords(c.step) }))}
        />
      </div>
      <Field label="Why" words className="w-64" maxLength={300} value={why} onText={setWhy} />
      <Button type="submit" className="min-h-9" disabled={!step || actions.set.isPending}>
        Set it
      </Button>
      {actions.problem && (
        <p role="alert" className="w-full text-sm">
          {actions.problem}
        </p>
      )}
    </form>
  );
}
