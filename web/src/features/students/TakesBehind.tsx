import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { behindQuery, type ClassCell, type ClassRow } from "~/api/week";
import { dayAndTime, measureWords } from "~/lib/words";
import { Dialog } from "~/ui/Dialog";
import { shareWords } from "~/ui/shareTrend.math";
import { Failed, Loading } from "~/ui/states";
import { Ticks } from "~/ui/Ticks";

/** The takes a cell of the class is made of, each a way to its sheet. */
export function TakesBehind({
  row,
  cell,
  zone,
  onClose,
}: {
  row: ClassRow;
  cell: ClassCell;
  zone: string;
  onClose: () => void;
}) {
  const behind = useQuery(behindQuery(row.student_id, cell.skill));
  return (
    <Dialog
      open
      onOpenChange={(open) => !open && onClose()}
      title={`${row.name}: ${measureWords(cell.skill)}`}
      description="Notes within tolerance, take by take, over the last eight weeks; in brackets what the share may be, of so few notes."
      wide
    >
      {behind.isPending && <Loading what="the takes" />}
      {behind.error && <Failed error={behind.error} onRetry={() => behind.refetch()} />}
      {behind.data && (
        <ul className="border-t border-ink" data-testid="behind">
          {behind.data.takes.map((take) => (
            <li
              key={take.take_id}
              className="relative grid items-center gap-x-4 border-b border-rule py-1.5 hover:bg-paper sm:grid-cols-[9rem_minmax(0,1fr)_12rem_10rem]"
            >
              <span className="text-sm text-ink-soft tabular-nums">{dayAndTime(take.played_at, zone)}</span>
              <Link to={`/takes/${take.take_id}`} className="font-semibold after:absolute after:inset-0">
                {take.drill}
              </Link>
              <Ticks ticks={take.ticks} />
              <span className="figures text-right text-sm whitespace-nowrap">{shareWords(take.share)}</span>
            </li>
          ))}
        </ul>
      )}
    </Dialog>
  );
}
