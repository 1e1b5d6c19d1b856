import { useState } from "react";
import { Link } from "react-router";
import type { Me } from "~/api/client";
import type { Assignment, Plan } from "~/api/week";
import { dayWords, minutesWords } from "~/lib/days";
import { recordAddress } from "~/lib/recordAddress";
import { Button, buttonClass } from "~/ui/Button";
import { cx } from "~/ui/cx";
import { ShapeOf } from "~/ui/tab/ShapeOf";
import { LadderDialog } from "./LadderDialog";
import { TermsDialog } from "./TermsDialog";
import { useSteps } from "./useSteps";

/** Each drill with where it stands on its ladder, what the ladder says, and a step to confirm. */
export function Assignments({ plan, me }: { plan: Plan; me: Me }) {
  const [changed, setChanged] = useState<Assignment | null>(null);
  const [ladder, setLadder] = useState<number | null>(null);
  const teacher = me.role === "teacher";
  if (plan.assignments.length === 0)
    return (
      <p className="border-y border-rule py-8 text-ink-soft">
        {teacher
          ? `${plan.student} works on nothing yet. Assign a drill: it gets a few minutes a day and a ladder of its own.`
          : "Your teacher has not assigned anything yet. Until then, record whatever you like."}
      </p>
    );
  return (
    <>
      <ul className="border-t border-ink" data-testid="assignments">
        {plan.assignments.map((a) => (
          <Line
            key={a.id}
            assignment={a}
            over={a.ends !== null && a.ends < plan.today}
            teacher={teacher}
            onTerms={() => setChanged(a)}
            onLadder={() => setLadder(a.id)}
          />
        ))}
      </ul>
      {changed && (
        <TermsDialog assignment={changed} others={plan.assignments} onClose={() => setChanged(null)} />
      )}
      {ladder !== null && (
        <LadderDialog id={ladder} teacher={teacher} zone={me.zone} onClose={() => setLadder(null)} />
      )}
    </>
  );
}

function Line({
  assignment: a,
  over,
  teacher,
  onTerms,
  onLadder,
}: {
  assignment: Assignment;
  /** The day it was meant to end has gone by. */
  over: boolean;
  teacher: boolean;
  onTerms: () => void;
  onLadder: () => void;
}) {
  const steps = useSteps(a.id);
  const moves = a.standing.move === "up" || a.standing.move === "down";
  return (
    <li
      className="grid gap-x-6 gap-y-1 border-b border-rule py-3 lg:grid-cols-[minmax(0,20rem)_9rem_minmax(0,1fr)_auto]"
      data-assignment={a.id}
      data-move={a.standing.move}
    >
      <div>
        <Link className="font-semibold hover:underline" to={`/drills/${a.drill_id}`}>
          {a.drill}
        </Link>
        <p className="text-sm text-ink-soft">
          {minutesWords(a.minutes)} on {a.days} days a week
          {a.ends && `, until ${dayWords(a.ends)}`}
          {over && ": its time is over; give it more, or let it rest"}
          {a.pair && `, paired with ${a.pair}`}
        </p>
        {a.note && <p className="text-sm">{a.note}</p>}
        <div className="mt-1 max-sm:hidden">
          <ShapeOf drillId={a.drill_id} width={200} low />
        </div>
      </div>
      <div>
        <button
          type="button"
          className="text-left tabular-nums underline decoration-rule-strong"
          data-testid="step"
          onClick={onLadder}
        >
          {a.step_words}
        </button>
        {a.goal?.bpm && (
          <p className="text-sm text-ink-soft">
            goal {a.goal.per_click ? `${a.goal.per_click} a click at ` : ""}
            {a.goal.bpm} bpm
          </p>
        )}
      </div>
      <p className={cx("text-sm", moves && "border-l-2 border-ink pl-3")} data-testid="says">
        {a.standing.says}
      </p>
      <div className="flex flex-wrap content-start gap-2">
        {teacher && moves && (
          <>
            <Button
              kind="strong"
              disabled={steps.confirm.isPending}
              onClick={() => steps.confirm.mutate(a.standing.says)}
            >
              {a.standing.move === "up" ? "Up" : "Down"} to {a.standing.to_words}
            </Button>
            <Button disabled={steps.putOff.isPending} onClick={() => steps.putOff.mutate()}>
              Not yet
            </Button>
          </>
        )}
        {teacher && (
          <Button kind="quiet" onClick={onTerms}>
            Settings
          </Button>
        )}
        <Link className={buttonClass("plain")} to={recordAddress(a.drill_id, a.student_id, a.step)}>
          Record
        </Link>
      </div>
      {steps.problem && (
        <p role="alert" className="text-sm lg:col-span-4">
          {steps.problem}
        </p>
      )}
    </li>
  );
}
