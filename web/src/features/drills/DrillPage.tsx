import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import type { DrillDetail, Me } from "~/api/client";
import { drillQuery } from "~/api/queries";
import { familyWords } from "~/lib/words";
import { Failed, Loading } from "~/ui/states";
import { TabLine } from "~/ui/tab/TabLine";
import { layoutTab } from "~/ui/tab/tab.math";
import { UploadButton } from "~/ui/upload/UploadButton";

const PX_PER_BEAT = 78;
const LEFT_PX = 40;

/** One drill: its tab, what is asked, and a place to drop a recording of it. */
export function DrillPage({ me }: { me: Me }) {
  const { id = "" } = useParams();
  const drill = useQuery(drillQuery(Number(id)));
  if (drill.isPending) return <Loading what="the drill" />;
  if (drill.error) return <Failed error={drill.error} onRetry={() => drill.refetch()} />;
  const { content, title, family, length_beats } = drill.data;
  const layout = layoutTab(content, length_beats, 1, (beat) => LEFT_PX + beat * PX_PER_BEAT);
  const width = LEFT_PX + length_beats * PX_PER_BEAT + 20;
  const perBar = content.tempo?.beats_per_bar ?? 4;
  const bars = Array.from({ length: Math.floor(length_beats / perBar) + 1 }, (_, i) => ({
    x: LEFT_PX + i * perBar * PX_PER_BEAT,
    kind: "bar" as const,
    label: "",
  }));
  return (
    <>
      <p className="text-sm text-ink-soft">
        <Link className="underline" to="/drills">
          Drills
        </Link>{" "}
        / {familyWords(family)}
      </p>
      <div className="mb-4 flex flex-wrap items-end gap-4">
        <h1 className="mr-auto text-2xl font-bold">{title}</h1>
        <UploadButton me={me} drillId={drill.data.id} />
      </div>
      <div className="overflow-x-auto border-y border-rule py-3" role="img" aria-label={asText(drill.data)}>
        <TabLine layout={layout} widthPx={width} lines={bars} />
      </div>
      <p className="mt-3 text-ink-soft">{askedWords(drill.data)}</p>
      <p className="mt-8 max-w-prose border-2 border-dashed border-rule-strong px-5 py-6 text-ink-soft">
        Drop a recording of this drill anywhere on the page, or use “Add a recording” (key U).
      </p>
    </>
  );
}

function askedWords({ content }: DrillDetail): string {
  const tempo = content.tempo ? `at ${content.tempo.bpm} bpm` : "in free time";
  return `${content.repeats} repeats ${tempo}, judged for ${content.measures.join(", ")}; tolerance profile “${content.profile}”.`;
}

function asText({ content }: DrillDetail): string {
  return content.events
    .map((e) =>
      e.notes?.length
        ? e.notes.map((n) => `string ${n.string} fret ${n.fret ?? "muted"}`).join(" and ")
        : "rest",
    )
    .join(", ");
}
