import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import type { DeskRow, Me, Take } from "~/api/client";
import { analysisQuery, compareQuery, curvesQuery, deskQuery, soundQuery, takeQuery } from "~/api/queries";
import { usePlayer } from "~/lib/usePlayer";
import { dayAndTime } from "~/lib/words";
import { Button } from "~/ui/Button";
import { Select } from "~/ui/Select";
import { Empty, Failed, Loading } from "~/ui/states";
import { Ticks } from "~/ui/Ticks";
import { type Comparison, changedWords, gainWords } from "~/ui/take/compare.math";
import { DifferenceTable } from "~/ui/take/DifferenceTable";
import { PairStrips } from "./PairStrips";
import { PairTable } from "./PairTable";

/** Two takes of a drill, the earlier one first, strip by strip and value by value. */
export function ComparePage({ me }: { me: Me }) {
  const { id = "", other } = useParams();
  const take = useQuery(takeQuery(id));
  if (take.isPending) return <Loading what="the take" />;
  if (take.error) return <Failed error={take.error} onRetry={() => take.refetch()} />;
  return <Chosen me={me} take={take.data} other={other ?? null} />;
}

function Chosen({ me, take, other }: { me: Me; take: Take; other: string | null }) {
  const all = useQuery(deskQuery({ show: "all", drill_id: take.drill_id }));
  const navigate = useNavigate();
  const offered = useMemo(
    () =>
      (all.data?.rows ?? [])
        .filter((r) => r.id !== take.id && r.state === "measured")
        .sort((a, b) => b.played_at.localeCompare(a.played_at)),
    [all.data, take.id],
  );
  // The student's own take before this one is what one wants to see first.
  const usual =
    offered.find((r) => r.student_id === take.student_id && r.played_at < take.played_at) ??
    offered.find((r) => r.student_id === take.student_id) ??
    offered[0];
  const against = other ?? usual?.id ?? null;
  return (
    <>
      <div className="mb-4 flex flex-wrap items-end gap-4">
        <div className="mr-auto">
          <p className="text-sm text-ink-soft">
            <Link className="underline" to="/">
              Desk
            </Link>{" "}
            /{" "}
            <Link className="underline" to={`/takes/${take.id}`}>
              {take.student}, {dayAndTime(take.played_at, me.zone)}
            </Link>
          </p>
          <h1 className="text-2xl font-bold">Compare: {take.drill}</h1>
        </div>
        {offered.length > 0 && (
          <div className="w-96">
            <Select
              label="With"
              value={against ?? ""}
              onChange={(value) => void navigate(`/compare/${take.id}/${value}`, { replace: true })}
              choices={offered.map((r) => ({ value: r.id, label: offerWords(r, me.zone) }))}
            />
          </div>
        )}
      </div>
      {all.isPending && <Loading what="takes of this drill" />}
      {all.error && <Failed error={all.error} onRetry={() => all.refetch()} />}
      {all.data && against === null && (
        <Empty title="There is no other take of this drill yet">
          Once it is played again, both stand here side by side.
        </Empty>
      )}
      {against !== null && <Pair key={`${take.id} ${against}`} me={me} a={take.id} b={against} />}
    </>
  );
}

function offerWords(row: DeskRow, zone: string): string {
  return `${row.student}, ${dayAndTime(row.played_at, zone)}: ${row.clean}/${row.asked} clean`;
}

function Pair({ me, a, b }: { me: Me; a: string; b: string }) {
  const found = useQuery(compareQuery(a, b));
  if (found.isPending) return <Loading what="both takes" />;
  if (found.error) return <Failed error={found.error} onRetry={() => found.refetch()} />;
  const { before, after, comparison } = found.data;
  return (
    <div data-testid="comparison">
      <p className="mb-3 max-w-4xl text-lg font-semibold" data-testid="gained">
        {gainWords(comparison)} {changedWords(comparison)}
        {comparison.only_before + comparison.only_after > 0 && (
          <span className="text-base font-normal text-ink-soft">
            {" "}
            {comparison.only_before + comparison.only_after} notes are asked in only one of them.
          </span>
        )}
      </p>
      <div className="mb-5 grid gap-x-8 gap-y-2 sm:grid-cols-2">
        {[before, after].map((take, i) => (
          <div key={take.id} className="flex flex-wrap items-center gap-x-4 border-t-2 border-ink pt-2">
            <Link className="font-semibold underline" to={`/takes/${take.id}`}>
              {i === 0 ? "Earlier" : "Later"}: {take.student}, {dayAndTime(take.played_at, me.zone)}
            </Link>
            {take.ticks && <Ticks ticks={take.ticks} />}
          </div>
        ))}
      </div>
      <Both before={before} after={after} pairs={comparison.pairs} zone={me.zone} />
      <details className="mt-5" data-testid="numbers">
        <summary className="cursor-pointer text-lg font-semibold">In numbers</summary>
        <div className="mt-3 grid items-start gap-x-10 gap-y-6 lg:grid-cols-[auto_minmax(0,1fr)]">
          <section aria-label="As a whole">
            <h2 className="mb-1 text-lg font-semibold">As a whole</h2>
            <DifferenceTable rows={comparison.overall} before="Earlier" after="Later" />
          </section>
          <PairTable pairs={comparison.pairs} />
        </div>
      </details>
    </div>
  );
}

function Both({
  before,
  after,
  pairs,
  zone,
}: {
  before: Take;
  after: Take;
  pairs: Comparison["pairs"];
  zone: string;
}) {
  const a = useQuery(analysisQuery(before.id, before.measured_at));
  const b = useQuery(analysisQuery(after.id, after.measured_at));
  const ca = useQuery(curvesQuery(before.id, before.measured_at));
  const cb = useQuery(curvesQuery(after.id, after.measured_at));
  const sa = useQuery(soundQuery(before.id));
  const sb = useQuery(soundQuery(after.id));
  const players = [usePlayer(sa.data), usePlayer(sb.data)] as const;
  const [repeat, setRepeat] = useState(0);
  const error = a.error ?? b.error ?? ca.error ?? cb.error;
  if (error) return <Failed error={error} />;
  if (!a.data || !b.data || !ca.data || !cb.data) return <Loading what="the strips" />;
  const repeats = Math.min(a.data.drill.content.repeats ?? 1, b.data.drill.content.repeats ?? 1);
  return (
    <>
      {repeats > 1 && (
        <fieldset className="mb-2 flex flex-wrap items-center gap-1 text-sm">
          <legend className="sr-only">Repeat</legend>
          {Array.from({ length: repeats }, (_, r) => (
            <Button
              // biome-ignore lint/suspicious/noArrayIndexKey: a repeat is its number
              key={r}
              className="min-h-7 px-2"
              aria-pressed={repeat === r}
              onClick={() => setRepeat(r)}
            >
              repeat {r + 1}
            </Button>
          ))}
        </fieldset>
      )}
      <PairStrips
        sides={[
          {
            name: `Earlier, ${dayAndTime(before.played_at, zone)}`,
            measured: a.data,
            curves: ca.data,
            player: players[0],
          },
          {
            name: `Later, ${dayAndTime(after.played_at, zone)}`,
            measured: b.data,
            curves: cb.data,
            player: players[1],
          },
        ]}
        repeat={repeat}
        pairs={pairs}
      />
    </>
  );
}
