import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import type { DrillRead, Me } from "~/api/client";
import { drillsQuery, takesQuery } from "~/api/queries";
import { weekQuery } from "~/api/week";
import { minutesWords } from "~/lib/days";
import { recordAddress } from "~/lib/recordAddress";
import { familyWords } from "~/lib/words";
import { buttonClass } from "~/ui/Button";
import { Field } from "~/ui/form/Field";
import { Failed, Loading } from "~/ui/states";
import { DrillShape } from "~/ui/tab/DrillShape";
import { UploadButton } from "~/ui/upload/UploadButton";
import { found, type Offered, recent } from "./choose.math";
import { FREE } from "./FreeRecord";
import { UnnamedList } from "./UnnamedList";

const MOST_RECENT = 6;
const MOST_FOUND = 24;

/** What to record: today's drills, the last ones, any other by its name, or now and name it later. */
export function ChooseDrill({ me }: { me: Me }) {
  const drills = useQuery(drillsQuery);
  const takes = useQuery(takesQuery);
  const own = me.role === "student" ? (me.student_id ?? 0) : 0;
  const week = useQuery({ ...weekQuery(own), enabled: own > 0 });
  const [text, setText] = useState("");
  // All at once, so that nothing moves under the thumb.
  if (drills.isPending || takes.isPending || (own > 0 && week.isPending)) return <Loading what="drills" />;
  if (drills.error) return <Failed error={drills.error} onRetry={() => drills.refetch()} />;
  const byId = new Map(drills.data.map((d) => [d.id, d]));
  const today = week.data?.days.find((d) => d.day === week.data.today);
  const asked: Offered[] = (today?.blocks ?? []).flatMap((block) => {
    const a = week.data?.assignments.find((other) => other.id === block.assignment_id);
    const drill = a && byId.get(a.drill_id);
    return a && drill
      ? [
          {
            drill,
            to: recordAddress(a.drill_id, a.student_id, a.step),
            says: `${a.step_words}, ${minutesWords(block.minutes)}`,
          },
        ]
      : [];
  });
  const last = recent(takes.data ?? [], byId, MOST_RECENT);
  const hits = found(drills.data, text, MOST_FOUND);
  return (
    <>
      <div className="mb-5 flex flex-wrap items-end gap-3">
        <h1 className="mr-auto text-2xl font-bold">Record a take</h1>
        <Link to={`/record/${FREE}`} className={buttonClass("plain")}>
          Record now, name it later
        </Link>
        <UploadButton me={me} />
      </div>
      <UnnamedList me={me} />
      {asked.length > 0 && <Offers title="Today" offers={asked} />}
      <div className="mb-6 max-w-xl">
        <Field
          label="Find a drill by its name, family or tag"
          words
          type="search"
          value={text}
          onText={setText}
        />
      </div>
      {text.trim() !== "" ? (
        hits.length > 0 ? (
          <Offers title={`Drills with “${text.trim()}”`} offers={hits.map(plainly)} />
        ) : (
          <p className="border-y border-rule py-8 text-ink-soft">
            No drill has that in its name. Try a family, such as bend, slur or sweep.
          </p>
        )
      ) : last.length > 0 ? (
        <Offers title="Recorded last" offers={last} />
      ) : (
        <Offers title="To begin with" offers={first(drills.data)} />
      )}
      <Link to="/drills" className="underline">
        All drills
      </Link>
    </>
  );
}

function plainly(drill: DrillRead): Offered {
  return { drill, to: `/record/${drill.id}`, says: familyWords(drill.family) };
}

/** An easy drill of each kind, for who has no take yet. */
function first(drills: DrillRead[]): Offered[] {
  const kinds = new Map<string, DrillRead>();
  for (const drill of drills)
    if (!drill.archived && drill.level === 1 && !kinds.has(drill.tags[0] ?? ""))
      kinds.set(drill.tags[0] ?? "", drill);
  return [...kinds.values()].slice(0, MOST_RECENT).map(plainly);
}

function Offers({ title, offers }: { title: string; offers: Offered[] }) {
  return (
    <section aria-label={title} className="mb-6">
      <h2 className="border-b border-ink pb-1 text-lg font-semibold">{title}</h2>
      <ul className="grid gap-x-10 lg:grid-cols-2">
        {offers.map(({ drill, to, says }, i) => (
          <li
            // biome-ignore lint/suspicious/noArrayIndexKey: a long dose stands in parts
            key={`${drill.id} ${i}`}
            className="relative flex items-center gap-5 border-b border-rule py-2 hover:bg-sheet"
          >
            <DrillShape drill={drill} />
            <span className="min-w-0">
              <Link to={to} className="font-semibold after:absolute after:inset-0">
                {drill.title}
              </Link>
              <span className="block text-sm text-ink-soft">{says}</span>
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
