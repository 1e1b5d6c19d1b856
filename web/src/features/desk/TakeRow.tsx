import { Link } from "react-router";
import type { DeskRow } from "~/api/client";
import type { Proposal } from "~/api/week";
import { dayAndTime, stageWords } from "~/lib/words";
import { Button } from "~/ui/Button";
import { cx } from "~/ui/cx";
import { Ticks } from "~/ui/Ticks";
import { ShapeOf } from "~/ui/tab/ShapeOf";
import { restWords } from "./desk.math";

const cell = "border-b border-rule py-2 pr-4 align-middle";

/** One take on the Desk; the whole row leads to its sheet. */
export function TakeRow({
  take,
  zone,
  here,
  picked,
  onPick,
  next,
  onStep,
}: {
  take: DeskRow;
  zone: string;
  /** Where the keys are. */
  here: boolean;
  /** Null where takes are not picked. */
  picked: boolean | null;
  onPick: () => void;
  /** The step its ladder proposes; "none" where there is none, null where steps are not confirmed. */
  next: Proposal | "none" | null;
  onStep: () => void;
}) {
  return (
    <tr
      className={cx("relative hover:bg-sheet", here && "bg-sheet shadow-[inset_3px_0_0_var(--ink)]")}
      data-take={take.id}
      data-state={take.state}
      aria-current={here ? "true" : undefined}
    >
      {picked !== null && (
        <td className={`${cell} relative z-10 w-8 pl-2`}>
          <input
            type="checkbox"
            className="size-4 accent-ink"
            aria-label={`Select ${take.student}, ${take.drill}`}
            checked={picked}
            onChange={onPick}
          />
        </td>
      )}
      <td className={cell}>
        <Link
          to={`/takes/${take.id}`}
          className="font-semibold whitespace-nowrap after:absolute after:inset-0 focus-visible:after:outline-2 focus-visible:after:outline-focus"
        >
          {take.student}
        </Link>
      </td>
      <td className={`${cell} tabular-nums whitespace-nowrap`}>{dayAndTime(take.played_at, zone)}</td>
      <td className={cell}>
        <span className="flex items-center gap-3">
          <span className="w-24 shrink-0 max-xl:hidden">
            <ShapeOf drillId={take.drill_id} width={96} low />
          </span>
          {take.drill}
        </span>
      </td>
      <td className={cell}>{take.ticks && <Ticks ticks={take.ticks} />}</td>
      <td className={`${cell} text-sm`}>
        <TakeResult take={take} />
      </td>
      <td className={`${cell} text-sm`}>
        {take.headline}
        {take.judged_at && (
          <span className="block text-ink-soft">judged by {take.judged_by ?? "somebody"}</span>
        )}
      </td>
      {next !== null && (
        <td className={`${cell} relative z-10 text-sm`}>
          {next !== "none" && (
            <Button onClick={onStep} title={`${next.says} Key: N`} aria-keyshortcuts="N" data-testid="step">
              {next.move === "up" ? "Up" : "Down"} to {next.to_words}
            </Button>
          )}
        </td>
      )}
    </tr>
  );
}

function TakeResult({ take }: { take: DeskRow }) {
  if (take.state === "measured") {
    const rest = restWords(take);
    return (
      <span>
        <span className="figures">
          {take.clean}/{take.asked}
        </span>{" "}
        clean{rest && <span className="text-ink-soft">, {rest}</span>}
      </span>
    );
  }
  if (take.state === "refused" || take.state === "failed") {
    return (
      <span className="line-clamp-2 max-w-80">
        <strong>Not measured.</strong> {take.problem?.detail}
      </span>
    );
  }
  return <Progress take={take} />;
}

/** Real progress: the stage the worker is in. */
function Progress({ take }: { take: DeskRow }) {
  const waiting = take.state !== "measuring";
  return (
    <span role="status" className="flex items-center gap-2">
      <progress
        className="h-1.5 w-24 accent-ink"
        aria-label="Measured so far"
        max={1}
        {...(waiting ? {} : { value: take.fraction })}
      />
      {waiting ? "waiting for its turn" : stageWords(take.stage)}
    </span>
  );
}
