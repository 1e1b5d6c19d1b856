import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Check } from "lucide-react";
import type { ReactNode } from "react";
import { Link, useNavigate } from "react-router";
import { api, data, type Me, Problem } from "~/api/client";
import { allGuitarsQuery, studentsQuery } from "~/api/queries";
import { Button } from "~/ui/Button";
import { Failed } from "~/ui/states";

/** What a new studio does first, each with what it brings; a step that is done is ticked. */
export function FirstSteps({ me, onDismiss }: { me: Me; onDismiss: () => void }) {
  const students = useQuery(studentsQuery);
  const guitars = useQuery(allGuitarsQuery);
  const first = students.data?.[0];
  const navigate = useNavigate();
  const queries = useQueryClient();
  const sample = useMutation({
    mutationFn: askForSample,
    onSuccess: async (takeId) => {
      await queries.invalidateQueries();
      void navigate(`/takes/${takeId}`);
    },
  });
  return (
    <section aria-label="First steps" className="border-y border-rule py-6" data-testid="first-steps">
      <h2 className="text-lg font-semibold">First steps</h2>
      <ol className="mt-2 max-w-prose">
        <Step done={(students.data?.length ?? 0) > 0} title="Add a student" to="/students">
          A name is enough. Students may send recordings by themselves later, with a link you give them.
        </Step>
        <Step
          done={(guitars.data?.length ?? 0) > 0}
          title="Say which guitar they play, and record its set-up check"
          to={first ? `/students/${first.id}` : "/students"}
        >
          Open strings and twelfth frets, half a minute. What belongs to the guitar is then not held against
          the hand.
        </Step>
        <Step done={false} title="Choose a drill" to="/drills">
          More than two hundred are here, grouped by what they train; or make one in half a minute.
        </Step>
        <Step done={false} title="Record a take" to="/record">
          With the click in the page. Or drop a recording here: WAV, FLAC, AIFF, OGG, Opus, WebM, MP3 and M4A
          are read, up to {me.upload_max_bytes / 1e6} MB and {me.take_max_minutes} minutes.
        </Step>
      </ol>
      <div className="mt-3 flex flex-wrap items-center gap-3">
        <Button kind="strong" disabled={sample.isPending} onClick={() => sample.mutate()}>
          {sample.isPending ? "One moment …" : "Try it with a sample take"}
        </Button>
        <Button onClick={onDismiss}>Do not show this again</Button>
      </div>
      {sample.error && <Failed error={sample.error} />}
    </section>
  );
}

const ASK_EVERY_MS = 500;
const PATIENCE_MS = 60_000;

/** A worker has the simulated student play it, which takes a moment. */
async function askForSample(): Promise<string> {
  const began = performance.now();
  for (;;) {
    const made = await data(api.POST("/api/v1/reports/sample"));
    if (made?.take_id) return made.take_id;
    if (performance.now() - began > PATIENCE_MS)
      throw new Problem(504, "sample_late", "The sample is not there yet. Try again in a moment.");
    await new Promise((resolve) => window.setTimeout(resolve, ASK_EVERY_MS));
  }
}

function Step({
  done,
  title,
  to,
  children,
}: {
  done: boolean;
  title: string;
  to: string;
  children: ReactNode;
}) {
  return (
    <li className="flex gap-3 border-b border-rule py-2">
      <span
        className="mt-0.5 flex size-5 shrink-0 items-center justify-center rounded-full border border-rule-strong"
        aria-hidden="true"
      >
        {done && <Check size={14} />}
      </span>
      <div>
        <Link className="font-semibold underline" to={to}>
          {title}
        </Link>
        {done && <span className="sr-only"> (done)</span>}
        <p className="text-sm text-ink-soft">{children}</p>
      </div>
    </li>
  );
}
