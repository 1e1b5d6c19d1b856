import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useParams } from "react-router";
import { api, csrfToken, data, problemFrom } from "~/api/client";
import type { ConsentGiven } from "~/api/consent";
import type { GuestOpen } from "~/api/week";
import { useAct } from "~/lib/useAct";
import { Button, buttonClass } from "~/ui/Button";
import { GiveConsent } from "~/ui/consent/GiveConsent";
import { Failed, Loading } from "~/ui/states";
import { DrillTab } from "~/ui/tab/DrillTab";
import { ALWAYS, type ClickSettings } from "./clickPlan.math";
import { InputCheck } from "./InputCheck";
import { asTake } from "./keepTake";
import { useRecorder } from "./useRecorder";

const ASK_EVERY_MS = 700;

/** Behind a guest's link: one drill, one recording, one answer. */
export function GuestPage() {
  const token = useParams().token ?? "";
  const there = useQuery({
    queryKey: ["guest", token],
    queryFn: () => data(api.GET("/api/v1/guests/{token}", { params: { path: { token } } })),
    retry: false,
    refetchOnWindowFocus: false,
  });
  return (
    <main className="mx-auto max-w-3xl px-6 py-6">
      <p className="text-xl font-bold tracking-tight">Fortimetra</p>
      {there.isPending && <Loading what="the drill" />}
      {there.error && <Failed error={there.error} />}
      {there.data && (
        <>
          <p className="mt-1 text-ink-soft">
            {there.data.teacher}, {there.data.studio}, asks for one recording.
          </p>
          <h1 className="mt-3 mb-3 text-2xl font-bold">{there.data.drill.title}</h1>
          {!there.data.open && <Answered token={token} />}
          {there.data.open && !there.data.agreed && <GuestAgrees token={token} there={there.data} />}
          {there.data.open && there.data.agreed && <Record token={token} there={there.data} />}
        </>
      )}
    </main>
  );
}

function GuestAgrees({ token, there }: { token: string; there: GuestOpen }) {
  const agree = useAct(
    (agreed: ConsentGiven) =>
      api.POST("/api/v1/guests/{token}/consent", { params: { path: { token } }, body: agreed }),
    [["guest", token]],
  );
  return (
    <GiveConsent
      student={there.student}
      words={there.to}
      own={false}
      pending={agree.isPending}
      error={agree.error}
      onAgree={agree.mutate}
    />
  );
}

function Record({ token, there }: { token: string; there: GuestOpen }) {
  const { drill } = there;
  const recorder = useRecorder(drill, asTake(drill, there.upload_max_bytes));
  const [click, setClick] = useState<ClickSettings>(ALWAYS);
  const { stage, kept } = recorder;
  const [sent, setSent] = useState(false);
  if (sent || kept?.sent) return <Answered token={token} />;
  if (stage === "playing" || stage === "keeping")
    return (
      <div data-testid="recorder" data-stage={stage}>
        <DrillTab content={drill.content} lengthBeats={drill.length_beats} />
        <Button kind="strong" className="mt-5 min-h-14 min-w-40 text-lg" onClick={() => void recorder.stop()}>
          Stop
        </Button>
      </div>
    );
  return (
    <div data-testid="recorder" data-stage={stage}>
      {kept?.problem && (
        <p role="alert" className="mb-3 border-l-4 border-ink pl-3">
          {kept.problem}
        </p>
      )}
      <DrillTab content={drill.content} lengthBeats={drill.length_beats} />
      <InputCheck
        recorder={recorder}
        content={drill.content}
        click={click}
        onClick={setClick}
        simulated={false}
      />
      <div className="mt-5 flex flex-wrap gap-3">
        <Button
          kind="strong"
          className="min-h-12"
          disabled={stage !== "check"}
          onClick={() => recorder.start(click, { studentId: 0, guitarId: null, guest: token })}
        >
          {drill.content.tempo ? "Count in and record" : "Record"}
        </Button>
        <SendFile token={token} onSent={() => setSent(true)} />
      </div>
      <p className="mt-3 text-sm text-ink-soft">
        The first recording counts; listen to your input before you begin. It is heard by {there.teacher} and
        measured here. A minute of playing is enough; at most {there.take_max_minutes} minutes are read.
      </p>
    </div>
  );
}

/** A file that was recorded elsewhere. */
function SendFile({ token, onSent }: { token: string; onSent: () => void }) {
  const [error, setError] = useState<unknown>(null);
  const [sending, setSending] = useState(false);
  const send = async (file: File) => {
    setSending(true);
    setError(null);
    const form = new FormData();
    form.set("file", file);
    try {
      const answer = await fetch(`/api/v1/guests/${token}/take`, {
        method: "POST",
        body: form,
        headers: { "X-CSRFToken": csrfToken() },
      });
      if (!answer.ok) throw problemFrom(answer.status, await answer.text());
      onSent();
    } catch (problem) {
      setError(problem);
    } finally {
      setSending(false);
    }
  };
  return (
    <>
      <label className={buttonClass("plain", "min-h-12 cursor-pointer")}>
        {sending ? "Sending …" : "Send a file instead"}
        <input
          type="file"
          accept="audio/*"
          className="sr-only"
          data-testid="guest-file"
          onChange={(event) => {
            const file = event.target.files?.[0];
            event.target.value = "";
            if (file) void send(file);
          }}
        />
      </label>
      {error !== null && <Failed error={error} />}
    </>
  );
}

/** Counts, once it is measured. */
function Answered({ token }: { token: string }) {
  const take = useQuery({
    queryKey: ["guest", token, "take"],
    queryFn: () => data(api.GET("/api/v1/guests/{token}/take", { params: { path: { token } } })),
    refetchInterval: (query) =>
      ["measured", "refused", "failed"].includes(query.state.data?.state ?? "") ? false : ASK_EVERY_MS,
  });
  if (take.error) return <Failed error={take.error} />;
  const found = take.data;
  if (!found || !["measured", "refused", "failed"].includes(found.state))
    return (
      <p role="status" className="py-6 text-ink-soft">
        Measuring …
      </p>
    );
  return (
    <div className="border-y border-rule py-6" data-testid="guest-answer">
      {found.state === "measured" ? (
        <>
          <p className="text-2xl font-bold">
            {found.clean} of {found.asked} clean
          </p>
          {found.says && <p className="mt-1">{found.says}</p>}
        </>
      ) : (
        <p>{found.problem}</p>
      )}
      <p className="mt-3 text-ink-soft">
        Your teacher has the recording. Thank you; you may close this page.
      </p>
    </div>
  );
}
