import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Me } from "~/api/client";
import { changePassword, endSessions, type SessionRow, sessions } from "~/api/session";
import { auditQuery } from "~/api/week";
import { useAct } from "~/lib/useAct";
import { dayAndTime } from "~/lib/words";
import { AuditList } from "~/ui/AuditList";
import { Button, buttonClass } from "~/ui/Button";
import { ConsentSection } from "~/ui/consent/ConsentSection";
import { Field } from "~/ui/form/Field";
import { AboutToGo } from "~/ui/Keeping";
import { Failed, Loading } from "~/ui/states";
import { Address } from "./Address";
import { Offline } from "./Offline";
import { SecondStep } from "./SecondStep";

const HEAD = "border-b border-ink pb-1 text-lg font-semibold";

/** One's own account: password, second step, where one is signed in, who looked. */
export function AccountPage({ me }: { me: Me }) {
  return (
    <>
      <h1 className="text-2xl font-bold">{me.name}</h1>
      <p className="mb-5 text-ink-soft">
        {me.email}, {me.role === "teacher" ? "teacher" : "student"} in {me.studio}
      </p>
      <div className="grid gap-x-12 gap-y-8 lg:grid-cols-2">
        <Password />
        <Address me={me} />
        <SecondStep />
        <Sessions zone={me.zone} />
        {me.student_id !== null && (
          <ConsentSection
            studentId={me.student_id ?? 0}
            name={me.name}
            none={<p className="mt-3">Not given. You are asked before your next recording.</p>}
          />
        )}
        {me.role === "student" && <Offline me={me} />}
        {me.role === "student" && <Own zone={me.zone} />}
        {me.role === "student" && <Seen me={me} />}
      </div>
    </>
  );
}

/** Everything about a student, for themselves. */
function Own({ zone }: { zone: string }) {
  return (
    <section aria-label="Your data">
      <h2 className={HEAD}>Your data</h2>
      <AboutToGo zone={zone} own />
      <p className="mt-3 max-w-prose">
        Your recordings, what was measured in them, your plan, your logbook, and what your teacher said: one
        ZIP of files that other programs read (FLAC or as you sent it, CSV, JSON, PDF).
      </p>
      <a className={buttonClass("plain", "mt-3 inline-block")} href="/api/v1/reports/own" download>
        Download everything
      </a>
    </section>
  );
}

function Password() {
  const [now, setNow] = useState("");
  const [next, setNext] = useState("");
  const change = useMutation({
    mutationFn: () => changePassword(now, next),
    onSuccess: () => {
      setNow("");
      setNext("");
    },
  });
  return (
    <section aria-label="Password">
      <h2 className={HEAD}>Password</h2>
      <form
        className="mt-3 flex flex-wrap items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          change.mutate();
        }}
      >
        <Field
          label="Now"
          words
          type="password"
          autoComplete="current-password"
          className="w-44"
          value={now}
          onText={setNow}
        />
        <Field
          label="New, at least ten letters"
          words
          type="password"
          autoComplete="new-password"
          className="w-52"
          value={next}
          onText={setNext}
        />
        <Button type="submit" className="min-h-9" disabled={change.isPending || !now || !next}>
          Change it
        </Button>
      </form>
      {change.isSuccess && (
        <p role="status" className="mt-2">
          The password is changed.
        </p>
      )}
      {change.error && <Failed error={change.error} />}
    </section>
  );
}

function Sessions({ zone }: { zone: string }) {
  const key = ["account", "sessions"];
  const rows = useQuery({ queryKey: key, queryFn: sessions });
  const end = useAct((ids: number[]) => endSessions(ids), [key]);
  const others = (rows.data ?? []).filter((r) => !r.is_current).map((r) => r.id);
  return (
    <section aria-label="Signed in">
      <h2 className={HEAD}>Signed in</h2>
      {rows.isPending && <Loading what="sessions" />}
      {rows.error && <Failed error={rows.error} onRetry={() => rows.refetch()} />}
      <ul>
        {(rows.data ?? []).map((row) => (
          <li key={row.id} className="flex flex-wrap items-baseline gap-x-4 border-b border-rule py-2">
            <span className="mr-auto">
              {browserWords(row)}
              <span className="block text-sm text-ink-soft">
                since {dayAndTime(new Date(row.created_at * 1000).toISOString(), zone)}, {row.ip}
              </span>
            </span>
            {row.is_current ? (
              <span className="text-sm text-ink-soft">this one</span>
            ) : (
              <Button onClick={() => end.mutate([row.id])}>Sign out there</Button>
            )}
          </li>
        ))}
      </ul>
      {others.length > 1 && (
        <Button className="mt-3" onClick={() => end.mutate(others)}>
          Sign out everywhere else
        </Button>
      )}
      {end.error && <Failed error={end.error} />}
    </section>
  );
}

/** The browser and the machine, as far as it says. */
function browserWords(row: SessionRow): string {
  const agent = row.user_agent;
  const browser = ["Firefox", "Edg", "Chrome", "Safari"].find((name) => agent.includes(name));
  const system = ["Android", "iPhone", "iPad", "Windows", "Mac OS", "Linux"].find((name) =>
    agent.includes(name),
  );
  const name = browser === "Edg" ? "Edge" : browser;
  return [name ?? "A browser", system && `on ${system}`].filter(Boolean).join(" ");
}

function Seen({ me }: { me: Me }) {
  const rows = useQuery(auditQuery());
  return (
    <section aria-label="Who looked">
      <h2 className={HEAD}>Activity log</h2>
      {rows.error && <Failed error={rows.error} onRetry={() => rows.refetch()} />}
      {rows.data && <AuditList rows={rows.data} zone={me.zone} />}
    </section>
  );
}
