import { useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import type { DrillDetail, Me } from "~/api/client";
import { drillQuery, drillsQuery, guitarsQuery, studentsQuery } from "~/api/queries";
import { Button, buttonClass } from "~/ui/Button";
import { Select } from "~/ui/Select";
import { Failed, Loading } from "~/ui/states";
import { DrillTab } from "~/ui/tab/DrillTab";
import { beatsPerBar } from "~/ui/tab/systems.math";
import { Answer } from "./Answer";
import { BeatCount } from "./BeatCount";
import { ALWAYS, type ClickSettings } from "./clickPlan.math";
import { InputCheck } from "./InputCheck";
import { useRecorder } from "./useRecorder";

const LAST = "fortimetra.recorder";

interface Last {
  student: string;
  guitar: string;
  click: ClickSettings;
}

function lastUsed(): Last {
  const none = { student: "", guitar: "", click: ALWAYS };
  try {
    const last = { ...none, ...(JSON.parse(localStorage.getItem(LAST) ?? "{}") as Partial<Last>) };
    // A tempo is of one drill and one sitting.
    return { ...last, click: { ...ALWAYS, ...last.click, bpm: null } };
  } catch {
    return none;
  }
}

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
  return <Recorder drill={drill.data} me={me} asked={asked} />;
}

/** Who plays, and at which step of a ladder, where the address says so. */
interface Asked {
  student: string | null;
  bpm: number | null;
  perClick: number | null;
}

function Recorder({ drill, me, asked }: { drill: DrillDetail; me: Me; asked: Asked }) {
  const [last, setLast] = useState(() => {
    const used = lastUsed();
    const bpm = asked.bpm === drill.content.tempo?.bpm ? null : asked.bpm;
    return { ...used, student: asked.student ?? used.student, click: { ...used.click, bpm } };
  });
  const students = useQuery(studentsQuery);
  const student =
    students.data?.find((s) => String(s.id) === last.student) ??
    (students.data?.length === 1 ? students.data[0] : undefined);
  const guitars = useQuery({ ...guitarsQuery(student?.id ?? 0), enabled: student !== undefined });
  const guitar = guitars.data?.find((g) => String(g.id) === last.guitar) ?? guitars.data?.[0];
  const recorder = useRecorder(drill, me.upload_max_bytes, asked.perClick);
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
  const ready = stage === "check" && student !== undefined;
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
        <>
          {hidden && (
            <p className="mb-3 max-w-prose border-l-4 border-rule-strong pl-3">
              The page was hidden while you played; some browsers stop the click then. If it stopped, record
              again.
            </p>
          )}
          {kept.ending === "gone" && (
            <p role="alert" className="mb-3 max-w-prose border-l-4 border-ink pl-3">
              The input went away while you played. What was recorded until then is kept; plug it in again to
              go on.
            </p>
          )}
          {kept.gaps.length > 0 && (
            <p role="alert" className="mb-3 max-w-prose border-l-4 border-ink pl-3" data-testid="gaps">
              The browser lost sound {kept.gaps.length === 1 ? "once" : `${kept.gaps.length} times`}, first at{" "}
              {kept.gaps[0]?.at_s.toFixed(1)} s. Close other pages and programs, then record again.
            </p>
          )}
          {kept.problem && (
            <p role="alert" className="mb-3 max-w-prose border-l-4 border-ink pl-3" data-testid="not-sent">
              {kept.problem} The take is safe in this browser and goes out by itself as soon as it can; you
              may close the page.
            </p>
          )}
          {kept.sent ? (
            <Answer
              id={kept.id}
              onAgain={recorder.again}
              studentId={student?.id ?? null}
              drillId={drill.id}
            />
          ) : (
            <>
              {!kept.problem && (
                <p role="status" className="text-ink-soft">
                  Sending …
                </p>
              )}
              <Button className="mt-4" onClick={recorder.again}>
                Again
              </Button>
            </>
          )}
        </>
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
          <InputCheck
            recorder={recorder}
            content={content}
            click={last.click}
            onClick={(click) => change({ click })}
          />
          <div className="mt-5 flex flex-wrap items-center gap-4">
            <Button kind="strong" className="min-h-12 min-w-48 text-base" disabled={!ready} onClick={start}>
              {content.tempo ? `Count in and record (R)` : "Record (R)"}
            </Button>
            {stage === "check" && !student && <span>Say who plays first.</span>}
            <Link className={buttonClass("quiet")} to={`/drills/${drill.id}`}>
              Back to the drill
            </Link>
          </div>
        </>
      )}
    </div>
  );
}

/** R begins; Space, Escape and what foot pedals send end a take. */
function useRecorderKeys(act: () => void) {
  const newest = useRef(act);
  newest.current = act;
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      const typing =
        event.target instanceof Element &&
        event.target.closest("input, select, [role=dialog], [role=listbox]");
      const playing = document.querySelector('[data-testid=recorder][data-stage="playing"]') !== null;
      const keys = playing ? [" ", "Escape", "PageDown", "PageUp", "Enter", "s"] : ["r", "PageDown"];
      if (typing || event.ctrlKey || event.metaKey || event.altKey || event.repeat) return;
      if (!keys.includes(event.key.length === 1 ? event.key.toLowerCase() : event.key)) return;
      event.preventDefault();
      newest.current();
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, []);
}

/** Keeps the screen on while it is needed, where the browser can. */
function useStayAwake(on: boolean) {
  useEffect(() => {
    if (!on || !("wakeLock" in navigator)) return;
    let lock: WakeLockSentinel | null = null;
    navigator.wakeLock.request("screen").then(
      (held) => {
        lock = held;
      },
      () => {},
    );
    return () => void lock?.release();
  }, [on]);
}

/** Whether the page was hidden at any time while a take was made. */
function useHiddenMeanwhile(playing: boolean): boolean {
  const [hidden, setHidden] = useState(false);
  useEffect(() => {
    if (!playing) return;
    setHidden(document.hidden);
    const see = () => document.hidden && setHidden(true);
    document.addEventListener("visibilitychange", see);
    return () => document.removeEventListener("visibilitychange", see);
  }, [playing]);
  return hidden;
}
