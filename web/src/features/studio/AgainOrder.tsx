import { Link } from "react-router";
import type { AgainRead, Flip } from "~/api/again";
import { isWorkedOn } from "~/api/again";
import { api, data } from "~/api/client";
import { useAct } from "~/lib/useAct";
import { dayAndTime, measureWords, verdictWords } from "~/lib/words";
import { Button } from "~/ui/Button";
import { Sure } from "~/ui/Sure";
import { Failed } from "~/ui/states";
import { takesWords } from "./again";

const CHANGES = [["again"], ["takes"], ["desk"]];

/** How far an order is, what it would change, and what can be done with it. */
export function AgainOrder({ order, zone }: { order: AgainRead; zone: string }) {
  const done = order.measured + order.refused + order.kept + order.left_alone;
  return (
    <div data-testid="again" className="mt-3">
      <p>
        <strong>{stateWords(order)}</strong>{" "}
        <span className="text-ink-soft">
          {[order.student ?? "All my students", order.drill ?? "all drills"].join(", ")}, by version{" "}
          {order.core_version}, asked for {dayAndTime(order.asked_at, zone)}
        </span>
      </p>
      {order.total > 0 && isWorkedOn(order) && (
        <progress
          className="mt-2 h-2 w-full max-w-xl accent-ink"
          max={order.total}
          value={order.state === "keeping" ? order.kept + order.left_alone : done}
          aria-label="Takes done so far"
        />
      )}
      {order.total > 0 && <p className="mt-1 text-sm text-ink-soft">{countWords(order, done)}</p>}
      <Flips flips={order.flips} measured={order.measured + order.kept} />
      <MostChanged order={order} zone={zone} />
      <Acts order={order} />
    </div>
  );
}

function stateWords(order: AgainRead): string {
  const words: Record<AgainRead["state"], string> = {
    listing: "Getting ready.",
    running: "Being measured.",
    paused: "Paused.",
    measured: "All measured; nothing counts yet.",
    keeping: "The new results are being kept.",
    kept: "The new results count.",
    dropping: "Being forgotten.",
  };
  return words[order.state];
}

function countWords(order: AgainRead, done: number): string {
  if (order.state === "kept") {
    const alone =
      order.left_alone > 0 ? `; ${order.left_alone} were changed meanwhile and left as they are` : "";
    return `${takesWords(order.kept)} kept${alone}.`;
  }
  const refused = order.refused > 0 ? `, ${order.refused} could not be measured and keep what they have` : "";
  return `${done} of ${takesWords(order.total)} done${refused}.`;
}

/** What would be judged otherwise, as a table: notes by measure. */
function Flips({ flips, measured }: { flips: Flip[]; measured: number }) {
  if (measured === 0) return null;
  if (flips.length === 0) return <p className="mt-3">No note is judged otherwise.</p>;
  return (
    <table className="mt-3 max-w-xl">
      <caption className="pb-1 text-left text-sm text-ink-soft">What is judged otherwise</caption>
      <thead>
        <tr className="border-b border-rule-strong text-left text-sm text-ink-soft *:py-1 *:pr-6 *:font-normal">
          <th>Measure</th>
          <th>Before</th>
          <th>Now</th>
          <th className="text-right">Notes</th>
        </tr>
      </thead>
      <tbody>
        {flips.map((flip) => (
          <tr
            key={`${flip.measure} ${flip.before} ${flip.after}`}
            className="border-b border-rule *:py-1 *:pr-6"
          >
            <td className="first-letter:uppercase">
              {flip.measure === "note" ? "The note as a whole" : measureWords(flip.measure)}
            </td>
            <td>{flip.before ? verdictWords(flip.before) : "not judged"}</td>
            <td>{flip.after ? verdictWords(flip.after) : "not judged"}</td>
            <td className="text-right tabular-nums">{flip.count}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function MostChanged({ order, zone }: { order: AgainRead; zone: string }) {
  if (order.most_changed.length === 0) return null;
  return (
    <details className="mt-3">
      <summary className="cursor-pointer">Where most changes</summary>
      <ul className="mt-1">
        {order.most_changed.map((take) => (
          <li key={take.take_id} className="border-b border-rule py-1">
            <Link className="underline" to={`/takes/${take.take_id}`}>
              {take.student}, {take.drill}
            </Link>
            , {dayAndTime(take.played_at, zone)}: {take.changed} {take.changed === 1 ? "note" : "notes"}{" "}
            otherwise, {take.clean[0]} of {take.asked[0]} clean before, {take.clean[1]} of {take.asked[1]} now
          </li>
        ))}
      </ul>
    </details>
  );
}

function Acts({ order }: { order: AgainRead }) {
  const params = { params: { path: { order_id: order.id } } };
  const pause = useAct(() => data(api.POST("/api/v1/takes/again/{order_id}/pause", params)), CHANGES);
  const goOn = useAct(() => data(api.POST("/api/v1/takes/again/{order_id}/go-on", params)), CHANGES);
  const keep = useAct(() => data(api.POST("/api/v1/takes/again/{order_id}/keep", params)), CHANGES);
  const drop = useAct(() => api.DELETE("/api/v1/takes/again/{order_id}", params), CHANGES);
  const error = pause.error ?? goOn.error;
  if (order.state === "kept" || order.state === "keeping" || order.state === "dropping") return null;
  return (
    <div className="mt-4 flex flex-wrap items-center gap-3">
      {order.state === "running" && (
        <Button className="min-h-9" onClick={() => pause.mutate()} disabled={pause.isPending}>
          Pause
        </Button>
      )}
      {order.state === "paused" && (
        <Button className="min-h-9" onClick={() => goOn.mutate()} disabled={goOn.isPending}>
          Go on
        </Button>
      )}
      {order.measured > 0 && (
        <Sure
          label="Keep the new results"
          title="Let the new results count?"
          says={
            `${takesWords(order.measured)} will show what version ${order.core_version} found, with what you have said of ` +
            "them. The old results cannot be brought back."
          }
          yes="Keep them"
          no="Not yet"
          act={keep}
          kind="plain"
        />
      )}
      <Sure
        label="Forget it"
        title="Forget what was measured again?"
        says="What counts now stays as it is."
        yes="Forget it"
        no="Back"
        act={drop}
      />
      {error && <Failed error={error} />}
    </div>
  );
}
