import { useQuery } from "@tanstack/react-query";
import { useNavigate, useParams, useSearchParams } from "react-router";
import type { Me } from "~/api/client";
import { drillQuery, drillsQuery } from "~/api/queries";
import { Select } from "~/ui/Select";
import { Failed, Loading } from "~/ui/states";
import { RecordDrill } from "./RecordDrill";

/** A take made in the page: choose, check the input, count in, play, and the answer. */
export function RecorderPage({ me }: { me: Me }) {
  const { id } = useParams();
  if (!id) return <ChooseDrill />;
  return <OneDrill key={id} id={Number(id)} me={me} />;
}

function ChooseDrill() {
  const drills = useQuery(drillsQuery);
  const navigate = useNavigate();
  if (drills.isPending) return <Loading what="drills" />;
  if (drills.error) return <Failed error={drills.error} onRetry={() => drills.refetch()} />;
  return (
    <>
      <h1 className="mb-4 text-2xl font-bold">Record a take</h1>
      <div className="max-w-xl">
        <Select
          label="Which drill"
          value=""
          onChange={(id) => navigate(`/record/${id}`)}
          choices={drills.data
            .filter((d) => !d.archived)
            .map((d) => ({ value: String(d.id), label: d.title }))}
        />
      </div>
    </>
  );
}

function OneDrill({ id, me }: { id: number; me: Me }) {
  const [query] = useSearchParams();
  const asked = {
    student: query.get("student"),
    bpm: Number(query.get("bpm")) || null,
    perClick: Number(query.get("per_click")) || null,
  };
  const drill = useQuery({ ...drillQuery(id, asked.perClick), refetchOnWindowFocus: false });
  if (drill.isPending) return <Loading what="the drill" />;
  if (drill.error) return <Failed error={drill.error} onRetry={() => drill.refetch()} />;
  return <RecordDrill drill={drill.data} me={me} asked={asked} />;
}
