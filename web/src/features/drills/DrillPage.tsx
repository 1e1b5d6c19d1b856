import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import type { Me } from "~/api/client";
import { drillQuery } from "~/api/queries";
import { familyWords } from "~/lib/words";
import { buttonClass } from "~/ui/Button";
import { Failed, Loading } from "~/ui/states";
import { DrillTab } from "~/ui/tab/DrillTab";
import { UploadButton } from "~/ui/upload/UploadButton";
import { DrillActions } from "./DrillActions";
import { askedWords, notJudgedWords } from "./drill.math";

const FILES = [
  { kind: "json", label: "drill file" },
  { kind: "midi", label: "MIDI" },
  { kind: "text", label: "text tab" },
];

/** One drill: its tab, what is asked, and a place to drop a recording of it. */
export function DrillPage({ me }: { me: Me }) {
  const { id = "" } = useParams();
  const drill = useQuery(drillQuery(Number(id)));
  if (drill.isPending) return <Loading what="the drill" />;
  if (drill.error) return <Failed error={drill.error} onRetry={() => drill.refetch()} />;
  const { content, title, family, length_beats, not_judged_yet } = drill.data;
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
        <span className="flex items-center gap-1 text-sm">
          <span className="mr-1 text-ink-soft">Export as</span>
          {FILES.map(({ kind, label }) => (
            <a
              key={kind}
              className={buttonClass()}
              href={`/api/v1/drills/${drill.data.id}/file?kind=${kind}`}
              download
            >
              {label}
            </a>
          ))}
        </span>
        <UploadButton me={me} drillId={drill.data.id} />
      </div>
      <DrillTab content={content} lengthBeats={length_beats} />
      <p className="mt-3 text-ink-soft">{askedWords(content)}</p>
      <p className="text-ink-soft">{notJudgedWords(not_judged_yet)}</p>
      {me.role === "teacher" && <DrillActions drill={drill.data} />}
      <p className="mt-8 max-w-prose border-2 border-dashed border-rule-strong px-5 py-6 text-ink-soft">
        Drop a recording of this drill anywhere on the page, or use “Add a recording” (key U).
      </p>
    </>
  );
}
