import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, data, type Me } from "~/api/client";
import { meQuery } from "~/api/queries";
import { auditQuery, invitationsQuery } from "~/api/week";
import { useAct } from "~/lib/useAct";
import { day } from "~/lib/words";
import { AuditList } from "~/ui/AuditList";
import { Button } from "~/ui/Button";
import { Field } from "~/ui/form/Field";
import { LinkOnce } from "~/ui/LinkOnce";
import { Failed, Loading } from "~/ui/states";
import { Archive } from "./Archive";
import { Colleagues } from "./Colleagues";
import { KeepingForm } from "./KeepingForm";
import { MeasureAgain } from "./MeasureAgain";

const HEAD = "border-b border-ink pb-1 text-lg font-semibold";

/** The studio: who teaches in it, its name and clock, its archive, and the record of who did what. */
export function StudioPage({ me }: { me: Me }) {
  return (
    <>
      <h1 className="mb-5 text-2xl font-bold">{me.studio}</h1>
      <div className="grid gap-x-12 gap-y-8 *:min-w-0 lg:grid-cols-2">
        <Colleagues me={me} />
        <section aria-label="Open invitations">
          <h2 className={HEAD}>Invitations</h2>
          {me.leads && <InviteTeacher />}
          <Invitations zone={me.zone} />
        </section>
        {me.leads && <NameAndZone me={me} />}
        {me.leads && <KeepingForm />}
        {me.leads && <Archive me={me} />}
        <MeasureAgain zone={me.zone} />
        <Audit me={me} />
      </div>
    </>
  );
}

function InviteTeacher() {
  const [email, setEmail] = useState("");
  const invite = useAct(
    () => data(api.POST("/api/v1/colleagues/invite", { body: { email } })),
    [["invitations"]],
  );
  return (
    <form
      className="mt-3"
      onSubmit={(event) => {
        event.preventDefault();
        invite.mutate();
      }}
    >
      <div className="flex items-end gap-3">
        <Field
          label="E-mail address (may be left out)"
          words
          type="email"
          className="w-64"
          value={email}
          onText={setEmail}
        />
        <Button type="submit" className="min-h-9" disabled={invite.isPending}>
          Invite a teacher
        </Button>
      </div>
      {invite.data && (
        <LinkOnce
          link={invite.data.link}
          says={`${invite.data.sent ? "It was mailed too. " : ""}Good for one account and two weeks; it is shown only now.`}
        />
      )}
      {invite.error && <Failed error={invite.error} />}
    </form>
  );
}

function Invitations({ zone }: { zone: string }) {
  const rows = useQuery(invitationsQuery);
  const withdraw = useAct(
    (id: string) =>
      api.DELETE("/api/v1/invitations/{invitation_id}", { params: { path: { invitation_id: id } } }),
    [["invitations"]],
  );
  if (rows.isPending) return <Loading what="invitations" />;
  if (rows.error) return <Failed error={rows.error} onRetry={() => rows.refetch()} />;
  if (rows.data.length === 0) return <p className="py-2 text-ink-soft">Nobody is invited right now.</p>;
  return (
    <ul>
      {rows.data.map((row) => (
        <li key={row.id} className="flex items-baseline gap-4 border-b border-rule py-2">
          <span className="mr-auto">
            {row.student ?? (row.email || "a teacher")}
            <span className="text-sm text-ink-soft">, until {day(row.expires_at, zone)}</span>
          </span>
          <Button kind="quiet" onClick={() => withdraw.mutate(row.id)}>
            Take it back
          </Button>
        </li>
      ))}
      {withdraw.error && <Failed error={withdraw.error} />}
    </ul>
  );
}

function NameAndZone({ me }: { me: Me }) {
  const [name, setName] = useState(me.studio);
  const [zone, setZone] = useState(me.zone);
  const change = useAct(() => api.PUT("/api/v1/studio", { body: { name, zone } }), [meQuery.queryKey]);
  return (
    <section aria-label="Name and clock">
      <h2 className={HEAD}>Name and clock</h2>
      <form
        className="mt-3 flex flex-wrap items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          change.mutate();
        }}
      >
        <Field label="Name" words className="w-64" maxLength={120} value={name} onText={setName} />
        <Field
          label="Time zone, like Europe/Lisbon"
          words
          className="w-52"
          list="zones"
          value={zone}
          onText={setZone}
        />
        <datalist id="zones">
          {Intl.supportedValuesOf("timeZone").map((z) => (
            <option key={z} value={z} />
          ))}
        </datalist>
        <Button type="submit" className="min-h-9" disabled={change.isPending}>
          Save
        </Button>
      </form>
      {change.error && <Failed error={change.error} />}
    </section>
  );
}

function Audit({ me }: { me: Me }) {
  const rows = useQuery(auditQuery());
  const [shown, setShown] = useState(false);
  return (
    <section aria-label="Record" className="lg:col-span-2">
      <h2 className={HEAD}>Activity log</h2>
      {rows.error && <Failed error={rows.error} onRetry={() => rows.refetch()} />}
      {rows.data && (
        <>
          <AuditList rows={shown ? rows.data : rows.data.slice(0, 12)} zone={me.zone} />
          {!shown && rows.data.length > 12 && (
            <Button className="mt-2" onClick={() => setShown(true)}>
              Show all {rows.data.length}
            </Button>
          )}
        </>
      )}
    </section>
  );
}
