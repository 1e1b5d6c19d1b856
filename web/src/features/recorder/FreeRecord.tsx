import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { Link } from "react-router";
import type { DrillDetail, Me } from "~/api/client";
import { drillQuery, drillsQuery, presentStudentsQuery } from "~/api/queries";
import { Button } from "~/ui/Button";
import { AskToRecord } from "~/ui/consent/AskToRecord";
import { timeWords } from "~/ui/smallPlayer.math";
import { Failed, Loading } from "~/ui/states";
import { InputCheck } from "./InputCheck";
import { asUnnamed } from "./keepTake";
import { lastUsed } from "./lastUsed";
import { UnnamedList } from "./UnnamedList";
import { useRecorder } from "./useRecorder";
import { useRecorderKeys, useStayAwake } from "./useWhileRecording";

/** The address of the recorder without a drill. */
export const FREE = "free";

/** Record first, say later what it was. */
export function FreeRecord({ me }: { me: Me }) {
  const drills = useQuery(drillsQuery);
  // What the simulated input plays; nobody else is held to it.
  const model = drills.data?.find((d) => d.bpm !== null && !d.archived)?.id ?? 0;
  const drill = useQuery({ ...drillQuery(model, null), enabled: model > 0 });
  if (drills.error) return <Failed error={drills.error} onRetry={() => drills.refetch()} />;
  if (drill.error) return <Failed error={drill.error} onRetry={() => drill.refetch()} />;
  if (!drill.data) return <Loading what="the recorder" />;
  return <Recorder me={me} model={drill.data} />;
}

function Recorder({ me, model }: { me: Me; model: DrillDetail }) {
  const students = useQuery(presentStudentsQuery);
  const own = me.role === "student" ? students.data?.find((s) => s.id === me.student_id) : undefined;
  const played = useMemo(() => ({ ...model, untilStopped: true }), [model]);
  const recorder = useRecorder(played, asUnnamed(me.upload_max_bytes));
  const { stage, kept } = recorder;
  const click = lastUsed().click;
  const ready = stage === "check" || stage === "kept";
  const start = () => ready && recorder.start(click, null);
  useRecorderKeys(stage === "playing" ? () => void recorder.stop() : start);
  useStayAwake(stage === "playing");
  return (
    <div data-testid="recorder" data-stage={stage}>
      <p className="text-sm text-ink-soft">
        <Link className="underline" to="/record">
          Record a take
        </Link>{" "}
        / Without a drill
      </p>
      <h1 className="mb-3 text-2xl font-bold">Record now, name it later</h1>
      <p className="mb-4 max-w-prose text-ink-soft">
        There is no click here. What you record stays in this browser until you say who plays and which drill
        it is; its notes are looked at first, so the drill is mostly found by itself.
      </p>
      {own && !own.agreed ? (
        <AskToRecord student={own} me={me} />
      ) : (
        <>
          <InputCheck recorder={recorder} content={null} click={click} onClick={() => {}} />
          <Button
            kind="strong"
            className="mt-5 min-h-12 min-w-48 text-base"
            disabled={!ready && stage !== "playing"}
            onClick={() => (stage === "playing" ? void recorder.stop() : start())}
          >
            {stage === "playing" ? "Stop (Space)" : stage === "keeping" ? "Keeping …" : "Record (R)"}
          </Button>
          {stage === "playing" && <Elapsed />}
        </>
      )}
      <div className="mt-8">
        <UnnamedList key={kept?.id ?? ""} me={me} />
      </div>
    </div>
  );
}

/** How long it has been recording. */
function Elapsed() {
  const [seconds, setSeconds] = useState(0);
  useEffect(() => {
    const began = performance.now();
    const timer = window.setInterval(() => setSeconds((performance.now() - began) / 1000), 250);
    return () => window.clearInterval(timer);
  }, []);
  return (
    <span className="figures ml-5 text-2xl" data-testid="elapsed">
      {timeWords(seconds)}
    </span>
  );
}
