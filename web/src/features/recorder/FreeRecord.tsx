import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { Link } from "react-router";
import type { Me } from "~/api/client";
import { drillQuery, drillsQuery, presentStudentsQuery } from "~/api/queries";
import { Button } from "~/ui/Button";
import { AskToRecord } from "~/ui/consent/AskToRecord";
import { timeWords } from "~/ui/smallPlayer.math";
import { InputCheck } from "./InputCheck";
import { Lost } from "./KeptTake";
import { asUnnamed } from "./keepTake";
import { lastUsed } from "./lastUsed";
import { UnnamedList } from "./UnnamedList";
import { useRecorder } from "./useRecorder";
import { useRecorderKeys, useStayAwake } from "./useWhileRecording";

/** The address of the recorder without a drill. */
export const FREE = "free";

/** Record first, say later what it was. */
export function FreeRecord({ me }: { me: Me }) {
  const students = useQuery(presentStudentsQuery);
  const own = me.role === "student" ? students.data?.find((s) => s.id === me.student_id) : undefined;
  // What the simulated input plays, where there is one; nobody else is held to it.
  const drills = useQuery(drillsQuery);
  const model = drills.data?.find((d) => d.bpm !== null && !d.archived)?.id ?? 0;
  const drill = useQuery({ ...drillQuery(model), enabled: model > 0 });
  const played = useMemo(
    () => ({
      content: drill.data?.content ?? null,
      length_beats: drill.data?.length_beats ?? 0,
      untilStopped: true,
    }),
    [drill.data],
  );
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
          {stage === "kept" && kept && (
            <div className="mt-4">
              <Lost kept={kept} />
            </div>
          )}
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
