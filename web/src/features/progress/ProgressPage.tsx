import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import type { Me } from "~/api/client";
import { type Overview, overviewQuery } from "~/api/week";
import { useStudentId } from "~/lib/useStudentId";
import { day } from "~/lib/words";
import { ShareNow, ShareTrend } from "~/ui/ShareTrend";
import type { ShareAt } from "~/ui/shareTrend.math";
import { Empty, Failed, Loading } from "~/ui/states";
import { StudentHead } from "~/ui/student/StudentHead";
import { ShapeOf } from "~/ui/tab/ShapeOf";
import { BendMap } from "./BendMap";
import { VoiceOverTime } from "./VoiceOverTime";

/** A picture a drill, the bends by their place on the neck, the vibrato over time. */
export function ProgressPage({ me }: { me: Me }) {
  const id = useStudentId(me);
  const overview = useQuery(overviewQuery(id));
  const base = me.role === "student" ? "/progress" : `/students/${id}/progress`;
  return (
    <>
      <StudentHead me={me} id={id} />
      {overview.isPending && <Loading what="progress" />}
      {overview.error && <Failed error={overview.error} onRetry={() => overview.refetch()} />}
      {overview.data?.drills.length === 0 && (
        <Empty title="No takes yet">After two takes of a drill its numbers can be followed here.</Empty>
      )}
      {overview.data && overview.data.drills.length > 0 && (
        <div className="flex flex-col gap-8">
          <DrillPictures overview={overview.data} zone={me.zone} base={base} />
          {overview.data.bends.length > 0 && <BendMap places={overview.data.bends} />}
          {overview.data.voice.length > 0 && <VoiceOverTime points={overview.data.voice} zone={me.zone} />}
        </div>
      )}
    </>
  );
}

/** A picture a drill, all on one scale: clean notes take by take, what may be clean as a band. */
function DrillPictures({ overview, zone, base }: { overview: Overview; zone: string; base: string }) {
  return (
    <section aria-label="Drills">
      <p className="mb-2 max-w-prose text-sm text-ink-soft">
        Clean notes of each take in percent, with what the share may be of so few; the band is 95 % and more.
        What is surely less is coloured.
      </p>
      <ul className="grid gap-x-10 border-t border-ink sm:grid-cols-2 xl:grid-cols-3">
        {overview.drills.map((row) => {
          const now = row.shares.at(-1);
          return (
            <li
              key={row.drill_id}
              className="relative border-b border-rule py-3 hover:bg-sheet"
              data-drill={row.drill_id}
            >
              <Link
                className="font-semibold after:absolute after:inset-0 hover:underline"
                to={`${base}/${row.drill_id}`}
              >
                {row.drill}
              </Link>
              <div className="mt-1 flex items-center gap-3">
                <ShareTrend shares={spread(row.shares)} width={190} height={52} />
                {now && (
                  <span className="leading-tight">
                    <span className="text-2xl">
                      <ShareNow share={now} />
                    </span>
                    <span className="text-sm text-ink-soft"> %</span>
                    <span className="figures block text-xs text-ink-soft">
                      {now.low.toFixed(0)} to {now.high.toFixed(0)}
                    </span>
                  </span>
                )}
                <span className="ml-auto hidden lg:block">
                  <ShapeOf drillId={row.drill_id} width={90} />
                </span>
              </div>
              <p className="mt-1 text-sm">
                {row.says}{" "}
                <span className="text-ink-soft tabular-nums">
                  {[
                    `${row.takes} ${row.takes === 1 ? "take" : "takes"}`,
                    row.clean_bpm !== null && `clean up to ${Math.round(row.clean_bpm)} bpm`,
                    `last ${day(row.last, zone)}`,
                  ]
                    .filter(Boolean)
                    .join(", ")}
                </span>
              </p>
            </li>
          );
        })}
      </ul>
    </section>
  );
}

const LEAST_SLOTS = 6;

/** Two takes do not stand at the two ends of the picture: there is room for those to come. */
function spread(shares: ShareAt[]): (ShareAt | null)[] {
  return [...shares, ...Array<null>(Math.max(0, LEAST_SLOTS - shares.length)).fill(null)];
}
