import { Link } from "react-router";
import type { Take } from "~/api/client";
import { dayAndTime, stageWords } from "~/lib/words";
import { Ticks } from "~/ui/Ticks";

/** One take on the Desk; the whole row leads to its sheet. */
export function TakeRow({ take, zone }: { take: Take; zone: string }) {
  const cell = "border-b border-rule py-2 pr-4 align-middle";
  return (
    <tr className="relative hover:bg-sheet" data-take={take.id} data-state={take.state}>
      <td className={cell}>
        <Link
          to={`/takes/${take.id}`}
          className="font-semibold after:absolute after:inset-0 focus-visible:after:outline-2 focus-visible:after:outline-focus"
        >
          {take.student}
        </Link>
      </td>
      <td className={`${cell} tabular-nums whitespace-nowrap`}>{dayAndTime(take.played_at, zone)}</td>
      <td className={cell}>{take.drill}</td>
      <td className={cell}>{take.ticks && <Ticks ticks={take.ticks} />}</td>
      <td className={`${cell} text-sm`}>
        <TakeResult take={take} />
      </td>
    </tr>
  );
}

function TakeResult({ take }: { take: Take }) {
  if (take.state === "measured" && take.summary) {
    const s = take.summary;
    const rest = [
      s.unclear && `${s.unclear} cannot tell`,
      s.missed && `${s.missed} missed`,
      s.extra && `${s.extra} extra`,
    ].filter(Boolean);
    return (
      <span>
        <span className="figures">
          {s.clean}/{s.asked}
        </span>{" "}
        clean{rest.length > 0 && <span className="text-ink-soft">, {rest.join(", ")}</span>}
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
export function Progress({ take }: { take: Take }) {
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
