import { useMutation, useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { drillsQuery } from "~/api/queries";
import { guessDrillOfTake } from "~/api/upload";
import { Button } from "~/ui/Button";
import { Failed } from "~/ui/states";

const MOST_OFFERED = 3;
// What fits so much less than the best is not it.
const NEAR_BEST = 0.2;

/** Has a take's recording heard, and offers the drills whose notes it holds. */
export function WhichDrill(props: {
  takeId: string;
  /** The drill it was sent for: not offered. */
  drillId: number;
  act: string;
  onChoose: (drillId: number) => void;
  busy?: boolean;
}) {
  const drills = useQuery(drillsQuery);
  const abort = useRef<AbortController | null>(null);
  useEffect(() => () => abort.current?.abort(), []);
  const hearing = useMutation({
    mutationFn: () => {
      abort.current = new AbortController();
      return guessDrillOfTake(props.takeId, abort.current.signal);
    },
  });
  const titles = new Map((drills.data ?? []).map((d) => [d.id, d.title]));
  const others = (hearing.data?.fits ?? []).filter(
    (fit) => fit.drillId !== props.drillId && titles.has(fit.drillId),
  );
  const own = hearing.data?.fits.find((fit) => fit.drillId === props.drillId);
  // What fits no better than its own drill is no proposal.
  const least = Math.max(own?.share ?? 0, (others[0]?.share ?? 0) - NEAR_BEST);
  const offered = others.filter((fit) => fit.share > least).slice(0, MOST_OFFERED);
  return (
    <div data-testid="which-drill">
      {!hearing.data && (
        <Button className="min-h-9" disabled={hearing.isPending} onClick={() => hearing.mutate()}>
          {hearing.isPending ? "Listening to its notes …" : "Find the drill that fits"}
        </Button>
      )}
      {hearing.error && <Failed error={hearing.error} />}
      {hearing.data && (
        <div role="status">
          {hearing.data.problem && <p>{hearing.data.problem}</p>}
          {!hearing.data.problem && offered.length === 0 && (
            <p>No other drill fits its notes better than the one it was sent for.</p>
          )}
          {offered.length > 0 && (
            <ul className="grid gap-2">
              {offered.map(({ drillId, share }) => (
                <li key={drillId} className="flex flex-wrap items-center gap-x-3 gap-y-1">
                  <span>
                    <strong>{titles.get(drillId)}</strong>: {Math.round(100 * share)} % of the notes fit
                  </span>
                  <Button
                    className="min-h-9"
                    disabled={props.busy}
                    aria-label={`${props.act}: ${titles.get(drillId)}`}
                    onClick={() => props.onChoose(drillId)}
                  >
                    {props.act}
                  </Button>
                </li>
              ))}
            </ul>
          )}
        </div>
      )}
    </div>
  );
}
