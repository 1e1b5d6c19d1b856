import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import type { DrillDetail, Me } from "~/api/client";
import { drillQuery } from "~/api/queries";
import { useDrillSound } from "~/lib/useDrillSound";
import { familyWords } from "~/lib/words";
import { Button, buttonClass } from "~/ui/Button";
import { DrillCard } from "~/ui/card/DrillCard";
import { Failed, Loading } from "~/ui/states";
import { DrillTab } from "~/ui/tab/DrillTab";
import { UploadButton } from "~/ui/upload/UploadButton";
import { DrillActions } from "./DrillActions";
import { DrillUse } from "./DrillUse";
import { askedWords, schoolWords } from "./drill.math";
import { Listen } from "./Listen";
import { Members } from "./Members";
import { Shelf } from "./Shelf";
import { Versions } from "./Versions";

const FILES = [
  { kind: "json", label: "drill file" },
  { kind: "musicxml", label: "MusicXML" },
  { kind: "midi", label: "MIDI" },
  { kind: "text", label: "text tab" },
];

/** One drill: its tab, what is asked, and a place to drop a recording of it. */
export function DrillPage({ me }: { me: Me }) {
  const { id = "" } = useParams();
  const drill = useQuery(drillQuery(Number(id)));
  const sound = useDrillSound();
  if (drill.isPending) return <Loading what="the drill" />;
  if (drill.error) return <Failed error={drill.error} onRetry={() => drill.refetch()} />;
  const { content, title, family, length_beats } = drill.data;
  return (
    <>
      <p className="text-sm text-ink-soft print:hidden">
        <Link className="underline" to="/drills">
          Drills
        </Link>{" "}
        / {familyWords(family)}
      </p>
      <div className="mb-4 flex flex-wrap items-end gap-x-4 gap-y-2">
        <h1 className="mr-auto text-2xl font-bold">{title}</h1>
        {me.role === "teacher" && (
          <Link className={buttonClass("plain", "print:hidden")} to={`/drills/${drill.data.id}/write`}>
            Write on it
          </Link>
        )}
        <Link className={buttonClass("plain", "print:hidden")} to={`/record/${drill.data.id}`}>
          Record a take
        </Link>
        <span className="print:hidden">
          <UploadButton me={me} drillId={drill.data.id} />
        </span>
      </div>
      <div className="grid gap-x-10 gap-y-6 lg:grid-cols-[minmax(0,1fr)_19rem]">
        <div className="min-w-0">
          <DrillTab
            content={content}
            lengthBeats={length_beats}
            heardBeat={sound.state === "playing" ? sound.beat : undefined}
          />
          <p className="mt-3 text-ink-soft">{askedWords(content)}</p>
          <p className="text-ink-soft">{schoolWords(content.school)}</p>
          <Members content={content} />
          <Alike drill={drill.data} teacher={me.role === "teacher"} />
          <div className="mt-4">
            <Listen content={content} sound={sound} />
          </div>
        </div>
        <DrillUse drillId={drill.data.id} me={me} />
      </div>
      <DrillCard drillId={drill.data.id} content={content} me={me} sound={sound} />
      <div className="mt-6 flex flex-wrap items-center gap-x-4 gap-y-2 border-t border-rule pt-4 print:hidden">
        <Button onClick={() => window.print()}>Print</Button>
        <span className="flex flex-wrap items-center gap-1 text-sm">
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
      </div>
      {me.role === "teacher" && <Shelf drill={drill.data} />}
      {me.role === "teacher" && <DrillActions drill={drill.data} />}
      <Versions drill={drill.data} me={me} />
      <p className="mt-8 max-w-prose print:hidden border-2 border-dashed border-rule-strong px-5 py-6 text-ink-soft">
        Drop a recording of this drill anywhere on the page, or use “Add a recording” (key U).
      </p>
    </>
  );
}

/** The same figure the other way, elsewhere on the neck, or made anew from its form. */
function Alike({ drill, teacher }: { drill: DrillDetail; teacher: boolean }) {
  const form = new URLSearchParams(drill.values).toString();
  return (
    <p className="mt-2 flex flex-wrap gap-x-5 print:hidden">
      {drill.after && (
        <Link className="underline" to={`/drills/${drill.after.id}`}>
          First: {drill.after.title}
        </Link>
      )}
      {drill.partner && (
        <Link className="underline" to={`/drills/${drill.partner.id}`}>
          The other way: {drill.partner.title}
        </Link>
      )}
      <Link className="underline" to={`/drills?like=${drill.id}`}>
        Like this, other strings
      </Link>
      {teacher && drill.form && (
        <Link className="underline" to={`/drills/new/${drill.form}${form ? `?${form}` : ""}`}>
          Make another like it
        </Link>
      )}
    </p>
  );
}
