import { useQuery } from "@tanstack/react-query";
import { Keyboard } from "lucide-react";
import { useMemo, useState } from "react";
import { useNavigate } from "react-router";
import type { DeskRow, Me } from "~/api/client";
import { type DeskAsked, deskQuery } from "~/api/queries";
import { useDeskFilter } from "~/lib/deskFilter";
import { useJudge } from "~/lib/useJudge";
import { Button } from "~/ui/Button";
import { Dialog } from "~/ui/Dialog";
import { AboutToGo } from "~/ui/Keeping";
import { Failed, Loading } from "~/ui/states";
import { UploadButton } from "~/ui/upload/UploadButton";
import { DeskFilter, SHOWS } from "./DeskFilter";
import { DeskTable } from "./DeskTable";
import { deskWords, isClean } from "./desk.math";
import { type Judged, JustJudged } from "./JustJudged";
import { Nothing } from "./Nothing";
import { SampleNote } from "./SampleNote";
import { StepsDialog } from "./StepsDialog";
import { DESK_KEYS, useDeskKeys } from "./useDeskKeys";
import { useNextSteps } from "./useNextSteps";

/** The teacher's start: takes in the order they need the ear. */
export function Desk({ me }: { me: Me }) {
  const teacher = me.role === "teacher";
  const [filter, setFilter] = useDeskFilter();
  const asked: DeskAsked = teacher ? filter : { show: "all" };
  const desk = useQuery(deskQuery(asked));
  const rows = useMemo(() => desk.data?.rows ?? [], [desk.data]);
  const next = useNextSteps(teacher, rows, desk.dataUpdatedAt);
  const [here, setHere] = useState<string | null>(null);
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set());
  const [help, setHelp] = useState(false);
  const [confirming, setConfirming] = useState(false);
  const [last, setLast] = useState<Judged | null>(null);
  const navigate = useNavigate();
  const judge = useJudge((answer, wanted) => {
    const done = rows.filter((r) => answer.done.includes(r.id));
    setPicked(new Set());
    setLast(wanted.judged ? { rows: done, changed: answer.changed.length } : null);
  });
  const families = useMemo(() => [...new Set(rows.map((r) => r.family))].sort(), [rows]);
  const at = rows.findIndex((r) => r.id === here);
  const current = rows[at] ?? rows[0] ?? null;
  const toggle = (id: string) =>
    setPicked((now) => {
      const next = new Set(now);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  const judgeThese = (these: readonly DeskRow[]) => {
    const takes = these
      .filter((r) => r.state === "measured" && !r.judged_at)
      .map(({ id, word_version }) => ({ id, word_version }));
    if (takes.length && !judge.isPending) judge.mutate({ takes, judged: true });
  };
  const back = () => {
    if (last)
      judge.mutate({ takes: last.rows.map(({ id, word_version }) => ({ id, word_version })), judged: false });
  };
  const pickedRows = rows.filter((r) => picked.has(r.id));
  useDeskKeys({
    go: (way) => {
      const next = rows[Math.max(0, Math.min(rows.length - 1, (at < 0 ? -1 : at) + way))];
      if (next) setHere(next.id);
    },
    open: () => current && void navigate(`/takes/${current.id}`),
    pick: () => teacher && current && toggle(current.id),
    pickClean: () => teacher && setPicked(new Set(rows.filter(isClean).map((r) => r.id))),
    judge: () => teacher && current && judgeThese(pickedRows.length ? pickedRows : [current]),
    back,
    step: () => current && next.confirm(next.of(current)),
    show: () => {
      const order = SHOWS.map((s) => s.value);
      setFilter({ show: order[(order.indexOf(filter.show) + 1) % order.length] ?? "waiting" });
    },
    help: () => setHelp(true),
  });
  const filtered = filter.student_id !== undefined || filter.family !== undefined;
  return (
    <>
      <div className="mb-4 flex flex-wrap items-end gap-4">
        <div className="mr-auto">
          <h1 className="text-2xl font-bold">Desk</h1>
          <p className="text-ink-soft">
            <span data-testid="desk-words">{desk.data ? deskWords(desk.data.counts) : " "}</span>
            {next.all.length > 0 && (
              <>
                {", "}
                <button type="button" className="underline" onClick={() => setConfirming(true)}>
                  {next.all.length} {next.all.length === 1 ? "step" : "steps"} to confirm
                </button>
              </>
            )}
          </p>
        </div>
        {teacher && (
          <DeskFilter filter={filter} setFilter={setFilter} families={desk.data ? families : null} />
        )}
        <UploadButton me={me} />
      </div>
      {teacher && <AboutToGo zone={me.zone} />}
      {teacher && <SampleNote rows={rows} />}
      {desk.isPending && <Loading what="takes" />}
      {desk.error && <Failed error={desk.error} onRetry={() => desk.refetch()} />}
      {judge.error && <Failed error={judge.error} />}
      {next.said && (
        <p role="status" className="mb-3 border-l-4 border-ink bg-sheet px-4 py-2" data-testid="stepped">
          {next.said}
        </p>
      )}
      {last && <JustJudged last={last} onBack={back} />}
      {desk.data && rows.length === 0 && (
        <Nothing
          filter={filter}
          filtered={filtered}
          fresh={Object.values(desk.data.counts).every((count) => count === 0)}
          me={me}
          onAll={() => setFilter({ student_id: undefined, family: undefined })}
        />
      )}
      {rows.length > 0 && (
        <>
          {teacher && (
            <div className="mb-2 flex flex-wrap items-center gap-2 text-sm">
              <Button
                kind={pickedRows.length ? "strong" : "plain"}
                aria-keyshortcuts="J"
                title="Key: J"
                disabled={!pickedRows.length || judge.isPending}
                onClick={() => judgeThese(pickedRows)}
                data-testid="judge-picked"
              >
                {pickedRows.length ? `Mark ${pickedRows.length} as judged` : "Mark as judged"}
              </Button>
              <Button
                aria-keyshortcuts="A"
                title="Key: A"
                onClick={() => setPicked(new Set(rows.filter(isClean).map((r) => r.id)))}
              >
                Select the clean ones
              </Button>
              <Button
                kind="quiet"
                className="px-1"
                aria-label="Keys of the Desk"
                onClick={() => setHelp(true)}
              >
                <Keyboard size={16} aria-hidden />
              </Button>
              {(desk.data?.total ?? 0) > rows.length && (
                <span className="ml-auto text-ink-soft">
                  the first {rows.length} of {desk.data?.total}
                </span>
              )}
            </div>
          )}
          <DeskTable
            rows={rows}
            teacher={teacher}
            zone={me.zone}
            here={current?.id ?? null}
            picked={picked}
            onPick={toggle}
            next={next}
          />
        </>
      )}
      {confirming && (
        <StepsDialog
          proposals={next.all}
          said={next.said}
          pending={next.pending}
          onConfirm={next.confirm}
          onClose={() => setConfirming(false)}
        />
      )}
      <Dialog open={help} onOpenChange={setHelp} title="Keys of the Desk">
        <dl className="grid grid-cols-[6rem_1fr] gap-y-2">
          {DESK_KEYS.map(([key, what]) => (
            <div key={key} className="contents">
              <dt className="figures font-semibold">{key}</dt>
              <dd>{what}</dd>
            </div>
          ))}
        </dl>
      </Dialog>
    </>
  );
}
