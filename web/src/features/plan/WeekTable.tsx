import { useState } from "react";
import { api } from "~/api/client";
import { type Assignment, type Block, type Plan, type PlanDay, plansKey } from "~/api/week";
import { addDays, dayWords, minutesWords } from "~/lib/days";
import { useAct } from "~/lib/useAct";
import { Button } from "~/ui/Button";
import { cx } from "~/ui/cx";
import { Dialog } from "~/ui/Dialog";
import { Failed } from "~/ui/states";

interface Moved {
  assignment: Assignment;
  day: string;
}

/** The days side by side: minutes of each drill, breaks, what did not fit. */
export function WeekTable({ plan }: { plan: Plan }) {
  const [moving, setMoving] = useState<Moved | null>(null);
  const byId = new Map(plan.assignments.map((a) => [a.id, a]));
  const cautions = [...new Map(plan.days.flatMap((d) => d.cautions).map((c) => [c.code, c])).values()];
  return (
    <>
      <ol className="grid gap-px border-y border-rule bg-rule sm:grid-cols-7" data-testid="week">
        {plan.days.map((day) => (
          <DayCell key={day.day} day={day} today={plan.today} byId={byId} onMove={setMoving} />
        ))}
      </ol>
      {cautions.map((c) => (
        <p key={c.code} className="mt-3 max-w-prose text-sm text-ink-soft" data-caution={c.code}>
          {c.text}
        </p>
      ))}
      {moving && <MoveDialog moved={moving} today={plan.today} onClose={() => setMoving(null)} />}
    </>
  );
}

function DayCell({
  day,
  today,
  byId,
  onMove,
}: {
  day: PlanDay;
  today: string;
  byId: Map<number, Assignment>;
  onMove: (moved: Moved) => void;
}) {
  const now = day.day === today;
  return (
    <li className={cx("min-h-28 px-2 py-2", now ? "bg-sheet" : "bg-paper")} data-day={day.day}>
      <p className={cx("flex justify-between text-sm", now ? "font-semibold" : "text-ink-soft")}>
        <span>{now ? "Today" : dayWords(day.day)}</span>
        {day.minutes > 0 && <span className="figures">{minutesWords(day.minutes)}</span>}
      </p>
      <ul className="mt-1">
        {day.blocks.map((block, i) => {
          const assignment = block.assignment_id === null ? undefined : byId.get(block.assignment_id);
          if (!assignment)
            return (
              // biome-ignore lint/suspicious/noArrayIndexKey: breaks have nothing else to be told by
              <li key={`break ${i}`} className="py-1 text-xs text-ink-soft">
                break, {minutesWords(block.minutes)}
              </li>
            );
          return (
            // biome-ignore lint/suspicious/noArrayIndexKey: a long dose stands in parts
            <li key={`${block.assignment_id} ${i}`} className="border-t border-rule py-1 text-sm leading-5">
              <button
                type="button"
                className="w-full text-left hover:underline"
                title="Put it off, or leave it out"
                onClick={() => onMove({ assignment, day: day.day })}
              >
                {assignment.drill}
              </button>
              <span className="text-xs text-ink-soft">{blockWords(block)}</span>
            </li>
          );
        })}
      </ul>
      {day.left_out.length > 0 && (
        <p className="mt-1 text-xs text-ink-soft">
          No room in {minutesWords(day.available)}: {day.left_out.join(", ")}
        </p>
      )}
      {day.blocks.length === 0 && day.left_out.length === 0 && <p className="text-sm text-ink-soft">free</p>}
    </li>
  );
}

function blockWords(block: Block): string {
  return [
    minutesWords(block.minutes),
    block.done > 0 && `${minutesWords(block.done)} done`,
    block.recorded > 0 && `${block.recorded} ${block.recorded === 1 ? "take" : "takes"}`,
  ]
    .filter(Boolean)
    .join(", ");
}

/** Put one day's work of a drill off. */
function MoveDialog({ moved, today, onClose }: { moved: Moved; today: string; onClose: () => void }) {
  const shift = useAct(
    (to: string | null) =>
      api.POST("/api/v1/plans/assignments/{assignment_id}/shift", {
        params: { path: { assignment_id: moved.assignment.id } },
        body: { since: moved.day, to },
      }),
    [plansKey],
    onClose,
  );
  const first = moved.day > today ? moved.day : today;
  const days = Array.from({ length: 7 }, (_, i) => addDays(first, i)).filter((d) => d !== moved.day);
  return (
    <Dialog
      open
      onOpenChange={(now) => !now && onClose()}
      title={moved.assignment.drill}
      description={`${dayWords(moved.day)}: put it off to another day, or leave it out. Nothing else moves, and nothing has to be made up for.`}
    >
      <div className="flex flex-wrap gap-2">
        {days.map((d) => (
          <Button key={d} onClick={() => shift.mutate(d)} disabled={shift.isPending}>
            {d === today ? "Today" : dayWords(d)}
          </Button>
        ))}
        <Button onClick={() => shift.mutate(null)} disabled={shift.isPending}>
          Leave it out
        </Button>
      </div>
      {shift.error && <Failed error={shift.error} />}
    </Dialog>
  );
}
