import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { api, type Me } from "~/api/client";
import { type KeeperRead, keeperQuery } from "~/api/keeper";
import { useAct } from "~/lib/useAct";
import { dayAndTime, megabytes } from "~/lib/words";
import { Button } from "~/ui/Button";
import { Empty, Failed, Loading } from "~/ui/states";
import { ageWords, jobWords } from "./keeper";

/** How the server is, for who looks after it: what waits, what was given up, room, versions, backups. */
export function KeeperPage({ me }: { me: Me }) {
  const found = useQuery({ ...keeperQuery, enabled: me.keeps });
  if (!me.keeps)
    return (
      <Empty title="This page is for whoever looks after the server">
        On the server, <code>./run manage make_keeper {me.email}</code> lets you see it.
      </Empty>
    );
  if (found.isPending) return <Loading what="the server's state" />;
  if (found.error) return <Failed error={found.error} onRetry={() => found.refetch()} />;
  const state = found.data;
  return (
    <>
      <h1 className="mb-5 text-2xl font-bold">Server</h1>
      {state.problems.length > 0 && (
        <ul role="alert" className="mb-6 border-l-4 border-ink pl-3 font-semibold">
          {state.problems.map((says) => (
            <li key={says}>{says}</li>
          ))}
        </ul>
      )}
      <div className="grid gap-x-12 gap-y-8 *:min-w-0 lg:grid-cols-2">
        <Jobs state={state} />
        <Part title="Room">
          <Facts rows={roomRows(state)} />
        </Part>
        <GivenUp state={state} zone={me.zone} />
        <Part title="Last backup">
          {state.backup ? (
            <Facts
              rows={[
                ["Made", dayAndTime(state.backup.at, me.zone)],
                ["File", state.backup.file],
                ["Size", megabytes(state.backup.bytes)],
                ["Encrypted", state.backup.encrypted ? "yes" : "no"],
              ]}
            />
          ) : (
            <p className="py-2">
              None was made yet. On the server: <code>./run backup FILE</code>.
            </p>
          )}
        </Part>
        <Part title="Who uses it">
          <Facts
            rows={[
              ["Studios", String(state.studios)],
              ["Accounts", String(state.people)],
              ["Students", String(state.students)],
            ]}
          />
        </Part>
        <Part title="Versions">
          <Facts rows={Object.entries(state.versions)} />
        </Part>
      </div>
    </>
  );
}

function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section aria-label={title}>
      <h2 className="border-b border-ink pb-1 text-lg font-semibold">{title}</h2>
      {children}
    </section>
  );
}

function Facts({ rows }: { rows: [string, string][] }) {
  return (
    <dl>
      {rows.map(([name, value]) => (
        <div key={name} className="flex justify-between gap-6 border-b border-rule py-1">
          <dt className="text-ink-soft">{name}</dt>
          <dd className="text-right tabular-nums">{value}</dd>
        </div>
      ))}
    </dl>
  );
}

const roomRows = ({ room }: KeeperRead): [string, string][] => [
  ["Free on the disk", `${megabytes(room.free)} of ${megabytes(room.total)}`],
  ["Uploads stop under", megabytes(room.kept_free)],
  ["Recordings", `${room.takes}, ${megabytes(room.recordings)}`],
];

function Jobs({ state }: { state: KeeperRead }) {
  const rows = state.jobs.filter((row) => row.state !== "failed");
  return (
    <Part title="Being done">
      {rows.length === 0 ? (
        <p className="py-2">Nothing waits.</p>
      ) : (
        <table className="w-full">
          <thead>
            <tr className="border-b border-rule-strong text-left text-sm text-ink-soft *:py-1 *:pr-4 *:font-normal">
              <th>Job</th>
              <th>State</th>
              <th className="text-right">How many</th>
              <th className="text-right">Oldest</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={`${row.kind} ${row.state}`} className="border-b border-rule *:py-1 *:pr-4">
                <td>{jobWords(row.kind)}</td>
                <td>{row.state}</td>
                <td className="text-right tabular-nums">{row.count}</td>
                <td className="text-right tabular-nums">{ageWords(row.oldest_s)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </Part>
  );
}

function GivenUp({ state, zone }: { state: KeeperRead; zone: string }) {
  const again = useAct(
    (id: number) => api.POST("/api/v1/keeper/jobs/{job_id}/again", { params: { path: { job_id: id } } }),
    [keeperQuery.queryKey],
  );
  const forget = useAct(
    (id: number) => api.DELETE("/api/v1/keeper/jobs/{job_id}", { params: { path: { job_id: id } } }),
    [keeperQuery.queryKey],
  );
  const error = again.error ?? forget.error;
  return (
    <Part title="Given up">
      {state.failed.length === 0 && <p className="py-2">Nothing was given up.</p>}
      <ul>
        {state.failed.map((job) => (
          <li key={job.id} className="border-b border-rule py-2">
            <div className="flex flex-wrap items-baseline gap-x-4">
              <span className="mr-auto font-semibold">{jobWords(job.kind)}</span>
              <Button kind="quiet" disabled={again.isPending} onClick={() => again.mutate(job.id)}>
                Try again
              </Button>
              <Button kind="quiet" disabled={forget.isPending} onClick={() => forget.mutate(job.id)}>
                Forget
              </Button>
            </div>
            <p className="text-sm text-ink-soft">
              {dayAndTime(job.asked_at, zone)}, tried {job.attempts} times: {job.problem}
            </p>
            <p className="text-sm text-ink-soft break-all">{job.subject}</p>
          </li>
        ))}
      </ul>
      {error && <Failed error={error} />}
    </Part>
  );
}
