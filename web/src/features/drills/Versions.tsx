import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { DrillDetail, Me } from "~/api/client";
import { writeDrill } from "~/api/drills";
import { versionQuery, versionsQuery } from "~/api/queries";
import { dayAndTime } from "~/lib/words";
import { Button } from "~/ui/Button";
import { Failed, Loading } from "~/ui/states";
import { DrillTab } from "~/ui/tab/DrillTab";

/** What a drill has been: takes keep the version they were played to, and an older one can come back. */
export function Versions({ drill, me }: { drill: DrillDetail; me: Me }) {
  const [seen, setSeen] = useState<number | null>(null);
  const versions = useQuery(versionsQuery(drill.id));
  if ((versions.data?.length ?? 0) < 2) return null;
  return (
    <details className="mt-4 print:hidden" data-testid="versions">
      <summary className="cursor-pointer py-1">Earlier versions</summary>
      <ul className="max-w-3xl">
        {versions.data?.map((version) => (
          <li
            key={version.number}
            className="flex flex-wrap items-baseline gap-x-4 border-b border-rule py-1.5"
          >
            <span className="figures">{version.number}</span>
            <span>{dayAndTime(version.created_at, me.zone)}</span>
            <span className="mr-auto text-sm text-ink-soft">
              {version.asked} notes{version.created_by ? `, ${version.created_by}` : ""}
              {version.takes > 0 ? `, ${version.takes === 1 ? "one take" : `${version.takes} takes`}` : ""}
            </span>
            {version.number === drill.version ? (
              <span className="text-sm">now</span>
            ) : (
              <Button
                aria-expanded={seen === version.number}
                onClick={() => setSeen(seen === version.number ? null : version.number)}
              >
                {seen === version.number ? "Close" : "Look at it"}
              </Button>
            )}
          </li>
        ))}
      </ul>
      {seen !== null && <Version drill={drill} number={seen} onBack={() => setSeen(null)} />}
    </details>
  );
}

function Version({ drill, number, onBack }: { drill: DrillDetail; number: number; onBack: () => void }) {
  const queries = useQueryClient();
  const version = useQuery(versionQuery(drill.id, number));
  const bringBack = useMutation({
    mutationFn: (old: DrillDetail) => writeDrill(drill.id, old.content, drill.version),
    onSuccess: () => {
      onBack();
      return queries.invalidateQueries({ queryKey: ["drills"] });
    },
  });
  if (version.isPending) return <Loading what={`version ${number}`} />;
  if (version.error) return <Failed error={version.error} onRetry={() => version.refetch()} />;
  return (
    <div className="mt-3">
      <DrillTab content={version.data.content} lengthBeats={version.data.length_beats} />
      <Button className="mt-2" onClick={() => bringBack.mutate(version.data)} disabled={bringBack.isPending}>
        Go back to version {number}
      </Button>
      {bringBack.error && <Failed error={bringBack.error} />}
    </div>
  );
}
