import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link } from "react-router";
import type { Me } from "~/api/client";
import { type Assignment, type Block, weekQuery } from "~/api/week";
import { minutesWords, weekdayWords } from "~/lib/days";
import { isKeeping, keepDay } from "~/lib/offline";
import { recordAddress } from "~/lib/recordAddress";
import { useConnected } from "~/lib/useConnected";
import { Button, buttonClass } from "~/ui/Button";
import { CardInShort } from "~/ui/card/CardInShort";
import { AboutToGo } from "~/ui/Keeping";
import { Failed, Loading } from "~/ui/states";
import { ShapeOf } from "~/ui/tab/ShapeOf";
import { HoldNote } from "./HoldNote";
import { LogDialog, type LogStart } from "./LogDialog";

/** The student's one page: today's minutes, each a thumb away from recording. */
export function TodayPage({ me }: { me: Me }) {
  const id = me.student_id ?? 0;
  const week = useQuery(weekQuery(id));
  const [logging, setLogging] = useState<LogStart | null>(null);
  const queries = useQueryClient();
  const connected = useConnected();
  useEffect(() => {
    if (connected && week.data && isKeeping()) void keepDay(queries, id, week.data);
  }, [connected, week.data, queries, id]);
  if (week.isPending) return <Loading what="today" />;
  if (week.error) return <Failed error={week.error} onRetry={() => week.refetch()} />;
  const { today, days, assignments, hold } = week.data;
  const day = days.find((d) => d.day === today);
  const byId = new Map(assignments.map((a) => [a.id, a]));
  const next = days.find((d) => d.day > today && d.blocks.length > 0);
  return (
    <div className="mx-auto max-w-xl">
      <h1 className="text-2xl font-bold">{weekdayWords(today)}</h1>
      <p className="mb-4 text-ink-soft" data-testid="today-words">
        {day && day.minutes > 0
          ? `${minutesWords(day.minutes)} today.`
          : `Nothing is planned for today.${next ? ` Next: ${weekdayWords(next.day)}.` : ""}`}
      </p>
      {!connected && (
        <p className="mb-4 border-l-4 border-rule-strong pl-3" data-testid="no-connection">
          No connection. {isKeeping() ? "Your day is as it was when there was one; takes" : "Takes"} are kept
          here and sent later.
        </p>
      )}
      <AboutToGo zone={me.zone} own />
      {hold && <HoldNote hold={hold} studentId={id} teacher={false} />}
      <ol className="border-t border-ink" data-testid="today">
        {day?.blocks.map((block, i) => {
          const assignment = block.assignment_id === null ? undefined : byId.get(block.assignment_id);
          if (!assignment)
            return (
              // biome-ignore lint/suspicious/noArrayIndexKey: breaks have nothing else to be told by
              <li key={`break ${i}`} className="border-b border-rule py-3 text-ink-soft">
                Break, {minutesWords(block.minutes)}. Put the guitar down.
              </li>
            );
          return (
            <TodayBlock
              // biome-ignore lint/suspicious/noArrayIndexKey: a long dose stands in parts
              key={`${assignment.id} ${i}`}
              assignment={assignment}
              block={block}
              me={me}
              onDone={() => setLogging({ kind: "practice", assignment, minutes: block.minutes })}
            />
          );
        })}
      </ol>
      {day?.cautions.map((c) => (
        <p key={c.code} className="mt-3 text-sm text-ink-soft" data-caution={c.code}>
          {c.text}
        </p>
      ))}
      <div className="mt-6 grid gap-2">
        <Button className="min-h-12" onClick={() => setLogging({ kind: "note" })}>
          Write a note
        </Button>
        <Button className="min-h-12" onClick={() => setLogging({ kind: "discomfort" })}>
          I stopped: something hurts
        </Button>
      </div>
      {logging && <LogDialog studentId={id} start={logging} onClose={() => setLogging(null)} />}
    </div>
  );
}

function TodayBlock({
  assignment: a,
  block,
  me,
  onDone,
}: {
  assignment: Assignment;
  block: Block;
  me: Me;
  onDone: () => void;
}) {
  const done = block.done >= block.minutes - 0.25;
  return (
    <li className="border-b border-rule py-3" data-assignment={a.id}>
      <div className="flex items-baseline justify-between gap-4">
        <strong>{a.drill}</strong>
        <span className="figures whitespace-nowrap">{minutesWords(block.minutes)}</span>
      </div>
      <p className="text-sm">
        <span className="tabular-nums">{a.step_words}</span>
        <span className="text-ink-soft">
          {block.recorded > 0 && `, ${block.recorded} recorded`}
          {block.done > 0 && `, ${minutesWords(block.done)} done`}
        </span>
      </p>
      <div className="my-1 min-h-[50px]">
        <ShapeOf drillId={a.drill_id} width={260} />
      </div>
      {a.note && <p className="text-sm">{a.note}</p>}
      <p className="mt-1 text-sm text-ink-soft">{a.standing.says}</p>
      <CardInShort drillId={a.drill_id} me={me} />
      <div className="mt-2 grid grid-cols-2 gap-2">
        <Link
          className={buttonClass("strong", "min-h-12")}
          to={recordAddress(a.drill_id, a.student_id, a.step)}
        >
          Record
        </Link>
        <Button className="min-h-12" onClick={onDone}>
          {done ? "Done; log more" : "Played it"}
        </Button>
      </div>
    </li>
  );
}
