import { useQuery } from "@tanstack/react-query";
import { drillsQuery } from "~/api/queries";
import { DrillShape } from "./DrillShape";

/** The shape of a drill of the library, once the library is there. */
export function ShapeOf({ drillId, width, low }: { drillId: number; width: number; low?: boolean }) {
  const drill = useQuery({ ...drillsQuery, select: (drills) => drills.find((d) => d.id === drillId) });
  return drill.data ? <DrillShape drill={drill.data} width={width} {...(low ? { low } : {})} /> : null;
}
