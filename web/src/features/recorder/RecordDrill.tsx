import { useQuery } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { Link } from "react-router";
import type { DrillDetail, Me } from "~/api/client";
import { guitarsQuery, presentStudentsQuery } from "~/api/queries";
import { Button, buttonClass } from "~/ui/Button";
import { CardInShort } from "~/ui/card/CardInShort";
import { AskToRecord } from "~/ui/consent/AskToRecord";
import { Select } from "~/ui/Select";
import { DrillTab } from "~/ui/tab/DrillTab";
import { beatsPerBar } from "~/ui/tab/systems.math";
import { BeatCount } from "./BeatCount";
import { InputCheck } from "./InputCheck";
import { KeptTake } from "./KeptTake";
import { asTake } from "./keepTake";
import { LAST, type Last, lastUsed } from "./lastUsed";
import { useRecorder } from "./useRecorder";
import { useHiddenMeanwhile, useRecorderKeys, useStayAwake } from "./useWhileRecording";

/** Who plays, and at which step of a ladder, where the address says so. */
export interface Asked {
  student: string | null;
  bpm: number | null;
  perClick: number | null;
}

/** One drill: the input is checked, a take is counted in, played and kept. */
export function RecordDrill({ drill, me, asked }: { drill: DrillDetail; me: Me; asked: Asked }) {
  const [last, setLast] = useState(() => {
    const used = lastUsed();
    const bpm = asked.bpm === drill.content.tempo?.bpm ? null : asked.bpm;
    return { ...used, student: asked.student ?? used.student, click: { ...used.click, bpm } };
  });
  const students = useQuery(presentStudentsQuery);
  const student =
    students.data?.find((s) => String(s.id) === last.student) ??
    (students.data?.length === 1 ? students.data[0] : undefined);
  const guitars = useQuery({ ...guitarsQuery(student?.id ?? 0), enabled: student !== undefined });
  const guitar = guitars.data?.find((g) => String(g.id) === last.guitar) ?? guitars.data?.[0];
  const recorder = useRecorder(drill, asTake(drill, me.upload_max_bytes, asked.perClick));
  const { stage, kept, beat, prepare } = recorder;
  const { content, length_beats: lengthBeats } = drill;
  const change = (part: Partial<Last>) => {
    const next = { ...last, ...part };
    if (next.click.bpm !== last.click.bpm) void prepare(next.click.bpm);
    setLast(next);
    localStorage.setItem(LAST, JSON.stringify(next));
  };
  const heardBeat = useCallback(() => {
    const now = beat();
    return now === null || now < 0 ? null : now % lengthBeats;
  }, [beat, lengthBeats]);
  const closed = student !== undefined && !student.agreed;
  const ready = stage === "check" && student !== undefined && !closed;
  const start = () => {
    if (ready && student) recorder.start(last.click, { studentId: student.id, guitarId: guitar?.id ?? null });
  };
  useRecorderKeys(stage === "playing" ? () => void recorder.stop() : start);
  useStayAwake(stage === "playing");
  const hidden = useHiddenMeanwhile(stage === "playing");

  if (stage === "playing" || stage === "keeping")
    return (
      <div data-testid="recorder" data-stage={stage}>
        <h1 className="mb-3 text-xl font-bold">{drill.title}</h1>
        <DrillTab content={content} lengthBeats={lengthBeats} heardBeat={heardBeat} />
        <div className="mt-5 flex flex-wrap items-center gap-8">
          {content.tempo && (
            <BeatCount
              beat={beat}
              perBar={beatsPerBar(content)}
              repeats={content.repeats}
              lengthBeats={lengthBeats}
            />
          )}
          <Button
            kind="strong"
            className="min-h-14 min-w-40 text-lg"
            onClick={() => void recorder.stop()}
            disabled={stage === "keeping"}
          >
            {stage === "keeping" ? "Keeping …" : "Stop (Space)"}
          </Button>
        </div>
      </div>
    );
  return (
    <div data-testid="recorder" data-stage={stage}>
      <p className="text-sm text-ink-soft">
        <Link className="underline" to={`/drills/${drill.id}`}>
          {drill.title}
        </Link>{" "}
        / Record
      </p>
      <h1 className="mb-3 text-2xl font-bold">{stage === "kept" ? "Your take" : "Record a take"}</h1>
      {stage === "kept" && kept && (
        <KeptTake
          kept={kept}
          hidden={hidden}
          studentId={student?.id ?? null}
          drillId={drill.id}
          onAgain={recorder.again}
        />
      )}
      {stage !== "kept" && (
        <>
          {asked.perClick && (
            <p className="mb-3 text-sm" data-testid="per-click">
              At this step of your ladder: {asked.perClick} {asked.perClick === 1 ? "note" : "notes"} to a
              click.
            </p>
          )}
          <div className="mb-4 grid max-w-3xl grid-cols-1 gap-x-4 gap-y-3 sm:grid-cols-2">
            <Select
              label="Who plays"
              value={student ? String(student.id) : ""}
              onChange={(value) => change({ student: value })}
              choices={(students.data ?? []).map((s) => ({ value: String(s.id), label: s.name }))}
            />
            {(guitars.data?.length ?? 0) > 0 && (
              <Select
                label="On which guitar"
                value={guitar ? String(guitar.id) : ""}
                onChange={(value) => change({ guitar: value })}
                choices={(guitars.data ?? []).map((g) => ({ value: String(g.id), label: g.name }))}
              />
            )}
          </div>
          <DrillTab content={content} lengthBeats={lengthBeats} />
          <CardInShort drillId={drill.id} me={me} />
          {closed ? (
            <AskToRecord student={student} me={me} />
          ) : (
            <InputCheck
              recorder={recorder}
              content={content}
              click={last.click}
              onClick={(click) => change({ click })}
            />
          )}
          <div className="mt-5 flex flex-wrap items-center gap-4">
            <Button kind="strong" className="min-h-12 min-w-48 text-base" disabled={!ready} onClick={start}>
              {content.tempo ? `Count in and record (R)` : "Record (R)"}
            </Button>
            {stage === "check" && !student && <span>Choose a student first.</span>}
            <Link className={buttonClass("quiet")} to={`/drills/${drill.id}`}>
              Back to the drill
            </Link>
          </div>
        </>
      )}
    </div>
  );
}
