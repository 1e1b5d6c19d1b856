import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import type { Me } from "~/api/client";
import { type Overview, overviewQuery } from "~/api/week";
import { useStudentId } from "~/lib/useStudentId";
import { day } from "~/lib/words";
import { FigureTable } from "~/ui/FigureTable";
import { Empty, Failed, Loading } from "~/ui/states";
import { StudentHead } from "~/ui/student/StudentHead";
import { BendMap } from "./BendMap";
import { VoiceOverTime } from "./VoiceOverTime";

/** Each drill in a line, the bends by their place on the neck, the vibrato over time. */
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
          <DrillLines overview={overview.data} zone={me.zone} base={base} />
          <div className="grid gap-x-12 gap-y-8 lg:grid-cols-2">
            {overview.data.bends.length > 0 && <BendMap places={overview.data.bends} />}
            {overview.data.voice.length > 0 && <VoiceOverTime points={overview.data.voice} zone={me.zone} />}
          </div>
        </div>
      )}
    </>
  );
}

function DrillLines({ overview, zone, base }: { overview: Overview; zone: string; base: string }) {
  return (
    <section aria-label="Drills">
      <FigureTable
        wide
        columns={[
          { label: "Drill", words: true },
          { label: "takes" },
          { label: "clean at first" },
          { label: "clean now" },
          { label: "clean up to" },
          { label: "last played", words: true },
        ]}
        rows={overview.drills.map((row) => ({
          key: String(row.drill_id),
          cells: [
            <Link key="drill" className="font-semibold hover:underline" to={`${base}/${row.drill_id}`}>
              {row.drill}
            </Link>,
            row.takes,
            percentWords(row.clean_first),
            percentWords(row.clean_now),
            row.clean_bpm === null ? "" : `${Math.round(row.clean_bpm)} bpm`,
            <span key="last" className="whitespace-nowrap">
              {day(row.last, zone)}
            </span>,
          ],
        }))}
      />
    </section>
  );
}

/** "92 % (81 to 98)": a share with what it may be; no share is under 0 or over 100. */
export function percentWords(value: { value: number; u: number | null } | null): string {
  if (!value) return "";
  const { value: share, u } = value;
  if (u === null) return `${share.toFixed(0)} %`;
  const [low, high] = [Math.max(0, share - u), Math.min(100, share + u)];
  return `${share.toFixed(0)} % (${low.toFixed(0)} to ${high.toFixed(0)})`;
}
