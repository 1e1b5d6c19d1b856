import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import type { Me } from "~/api/client";
import { type Progress, progressQuery } from "~/api/week";
import { dayWords } from "~/lib/days";
import { useStudentId } from "~/lib/useStudentId";
import { buttonClass } from "~/ui/Button";
import { SmallPlayer } from "~/ui/SmallPlayer";
import { Failed, Loading } from "~/ui/states";
import { StudentHead } from "~/ui/student/StudentHead";
import { Chart } from "./Chart";
import { RungBy } from "./RungBy";
import { SetProgress } from "./SetProgress";

/** One drill from take to take: every measure with its tolerance, the clean tempo, before and after to be heard. */
export function DrillProgressPage({ me }: { me: Me }) {
  const id = useStudentId(me);
  const drillId = Number(useParams().drill);
  const progress = useQuery(progressQuery(id, drillId));
  const base = me.role === "student" ? "/progress" : `/students/${id}/progress`;
  return (
    <>
      <StudentHead me={me} id={id} />
      <p className="text-sm text-ink-soft">
        <Link className="underline" to={base}>
          All drills
        </Link>
      </p>
      {progress.isPending && <Loading what="this drill’s progress" />}
      {progress.error && <Failed error={progress.error} onRetry={() => progress.refetch()} />}
      {progress.data && <Found progress={progress.data} zone={me.zone} />}
    </>
  );
}

function Found({ progress, zone }: { progress: Progress; zone: string }) {
  const best = Math.max(0, ...progress.clean_tempo.map((c) => c.bpm));
  return (
    <>
      <h2 className="text-xl font-bold">{progress.drill}</h2>
      {progress.series.length === 0 && (
        <p className="border-y border-rule py-8 text-ink-soft">
          Fewer than two takes say anything here. Record another.
        </p>
      )}
      {progress.core_versions.length > 1 && (
        <p className="mt-2 max-w-prose text-sm text-ink-soft" data-testid="versions">
          Measured by versions {progress.core_versions.join(" and ")}: a trend is told within the newest
          alone. Measure older takes again to put them on one footing.
        </p>
      )}
      {best > 0 && (
        <p className="mt-2" data-testid="clean-tempo">
          Clean up to <strong className="figures">{Math.round(best)} bpm</strong>
          <span className="text-ink-soft">
            {" "}
            (
            {progress.clean_tempo
              .map(
                (c) =>
                  `${dayWords(c.day)}: ${c.per_click ? `${c.per_click} a click at ` : ""}${Math.round(c.bpm)}`,
              )
              .join("; ")}
            )
          </span>
        </p>
      )}
      {progress.before && progress.after && <BeforeAfter before={progress.before} after={progress.after} />}
      <div className="mt-2 grid gap-x-10 lg:grid-cols-2">
        {progress.series.map((series) => (
          <Chart key={series.key} series={series} setUps={progress.set_ups} zone={zone} />
        ))}
      </div>
      <RungBy rung={progress.rung} />
      <SetProgress members={progress.members} zone={zone} />
      {progress.set_ups.length > 0 && (
        <p className="mt-3 text-sm text-ink-soft">
          A small triangle marks a set-up take: what lies on its two sides may differ by the guitar.
        </p>
      )}
    </>
  );
}

function BeforeAfter({ before, after }: { before: string; after: string }) {
  return (
    <div className="mt-3 flex flex-wrap items-end gap-x-6 gap-y-2" data-testid="before-after">
      {(
        [
          ["The first take", before],
          ["The newest take", after],
        ] as const
      ).map(([label, take]) => (
        <div key={label}>
          <p className="text-sm text-ink-soft">{label}</p>
          <SmallPlayer sound={`/api/v1/takes/${take}/sound`} label={label.toLowerCase()} />
        </div>
      ))}
      <Link className={buttonClass("plain", "min-h-9")} to={`/compare/${before}/${after}`}>
        Note by note
      </Link>
    </div>
  );
}
