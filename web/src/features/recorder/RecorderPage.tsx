import { useQuery } from "@tanstack/react-query";
import { useParams, useSearchParams } from "react-router";
import type { Me } from "~/api/client";
import { drillQuery } from "~/api/queries";
import { Failed, Loading } from "~/ui/states";
import { ChooseDrill } from "./ChooseDrill";
import { FREE, FreeRecord } from "./FreeRecord";
import { RecordDrill } from "./RecordDrill";

/** A take made in the page: choose, check the input, count in, play, and the answer. */
export function RecorderPage({ me }: { me: Me }) {
  const { id } = useParams();
  if (!id) return <ChooseDrill me={me} />;
  if (id === FREE) return <FreeRecord me={me} />;
  return <OneDrill key={id} id={Number(id)} me={me} />;
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
