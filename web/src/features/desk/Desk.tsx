import { useQuery } from "@tanstack/react-query";
import { Keyboard } from "lucide-react";
import { useEffect, useMemo, useRef, useState } from "react";
import { useNavigate } from "react-router";
import type { DeskRow, Me } from "~/api/client";
import { type DeskAsked, deskQuery, studentsQuery } from "~/api/queries";
import { useDeskFilter } from "~/lib/deskFilter";
import { useJudge } from "~/lib/useJudge";
import { familyWords } from "~/lib/words";
import { Button } from "~/ui/Button";
import { Dialog } from "~/ui/Dialog";
import { Select } from "~/ui/Select";
import { Empty, Failed, Loading } from "~/ui/states";
import { UploadButton } from "~/ui/upload/UploadButton";
import { deskWords, isClean } from "./desk.math";
import { StepsDialog } from "./StepsDialog";
import { TakeRow } from "./TakeRow";
import { DESK_KEYS, useDeskKeys } from "./useDeskKeys";
import { useNextSteps } from "./useNextSteps";

const EVERYBODY = "all";
const SHOWS: { value: DeskAsked["show"]; label: string }[] = [
  { value: "waiting", label: "To judge" },
  { value: "judged", label: "Judged" },
  { value: "all", label: "All" },
];

/** The teacher's start: takes in the order they need the ear. */
export function Desk({ me }: { me: Me }) {
  const teacher = me.role === "teacher";
  const [filter, setFilter] = useDeskFilter();
  const asked: DeskAsked = teacher ? filter : { show: "all" };
  const desk = useQuery(deskQuery(asked));
  const students = useQuery(studentsQuery);
  const rows = useMemo(() => desk.data?.rows ?? [], [desk.data]);
  const next = useNextSteps(teacher, rows, desk.dataUpdatedAt);
  const [here, setHere] = useState<string | null>(null);
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set());
  const [help, setHelp] = useState(false);
  const [confirming, setConfirming] = useState(false);
  const [last, setLast] = useState<{ rows: DeskRow[]; changed: number } | null>(null);
  const navigate = useNavigate();
  const judge = useJudge((answer, wanted) => {
    const done = rows.filter((r) => answer.done.includes(r.id));
    setPicked(new Set());
    setLast(wanted.judged ? { rows: done, changed: answer.changed.length } : null);
  });
  const families = useMemo(() => [...new Set(rows.map((r) => r.family))].sort(), [rows]);
  const at = rows.findIndex((r) => r.id === here);
  const current = rows[at] ?? rows[0] ?? null;
  const body = useRef<HTMLTableSectionElement>(null);
  useEffect(() => {
    if (here) body.current?.querySelector(`[data-take="${here}"]`)?.scrollIntoView({ block: "nearest" });
  }, [here]);
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
    back: () => {
      if (last)
        judge.mutate({
          takes: last.rows.map(({ id, word_version }) => ({ id, word_version })),
          judged: false,
        });
    },
    step: () => current && next.confirm(next.of(current)),
    show: () => {
      const order = SHOWS.map((s) => s.value);
      setFilter({ show: order[(order.indexOf(filter.show) + 1) % order.length] ?? "waiting" });
    },
    help: () => setHelp(true),
  });
  const steps = rows.filter((row) => next.of(row));
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
          <>
            <fieldset className="flex gap-1">
              <legend className="sr-only">Which takes</legend>
              {SHOWS.map(({ value, label }) => (
                <Button
                  key={value}
                  className="min-h-9"
                  aria-pressed={filter.show === value}
                  onClick={() => setFilter({ show: value })}
                >
                  {label}
                </Button>
              ))}
            </fieldset>
            {(students.data?.length ?? 0) > 1 && (
              <div className="w-44">
                <Select
                  label="Student"
                  value={filter.student_id === undefined ? EVERYBODY : String(filter.student_id)}
                  onChange={(value) =>
                    setFilter({ student_id: value === EVERYBODY ? undefined : Number(value) })
                  }
                  choices={[
                    { value: EVERYBODY, label: "All students" },
                    ...(students.data ?? []).map((s) => ({ value: String(s.id), label: s.name })),
                  ]}
                />
              </div>
            )}
            {(families.length > 1 || filter.family !== undefined) && (
              <div className="w-52">
                <Select
                  label="Kind of drill"
                  value={filter.family ?? EVERYBODY}
                  onChange={(value) => setFilter({ family: value === EVERYBODY ? undefined : value })}
                  choices={[
                    { value: EVERYBODY, label: "All kinds" },
                    ...[...new Set([...families, ...(filter.family ? [filter.family] : [])])].map((f) => ({
                      value: f,
                      label: familyWords(f),
                    })),
                  ]}
                />
              </div>
            )}
          </>
        )}
        <UploadButton me={me} />
      </div>
      {desk.isPending && <Loading what="takes" />}
      {desk.error && <Failed error={desk.error} onRetry={() => desk.refetch()} />}
      {judge.error && <Failed error={judge.error} />}
      {next.said && (
        <p role="status" className="mb-3 border-l-4 border-ink bg-sheet px-4 py-2" data-testid="stepped">
          {next.said}
        </p>
      )}
      {last && (
        <p role="status" className="mb-3 flex items-baseline gap-3 border-l-4 border-ink bg-sheet px-4 py-2">
          <span>
            {last.rows.length === 1
              ? `${last.rows[0]?.student}’s take is judged.`
              : `${last.rows.length} takes are judged.`}
            {last.changed > 0 &&
              ` ${last.changed} changed meanwhile, or ${last.changed === 1 ? "is" : "are"} gone, and ${last.changed === 1 ? "was" : "were"} left alone: look again.`}
          </span>
          {last.rows.length > 0 && (
            <Button
              aria-keyshortcuts="Z"
              title="Key: Z"
              onClick={() =>
                judge.mutate({
                  takes: last.rows.map(({ id, word_version }) => ({ id, word_version })),
                  judged: false,
                })
              }
            >
              Back to the Desk
            </Button>
          )}
        </p>
      )}
      {desk.data && rows.length === 0 && (
        <Nothing
          filter={filter}
          filtered={filtered}
          me={me}
          onAll={() => setFilter({ student_id: undefined, family: undefined })}
        />
      )}
      {rows.length > 0 && (
        <>
          {teacher && (
            <div className="mb-2 flex items-center gap-2 text-sm">
              <Button
                kind={pickedRows.length ? "strong" : "plain"}
                aria-keyshortcuts="J"
                title="Key: J"
                disabled={!pickedRows.length || judge.isPending}
                onClick={() => judgeThese(pickedRows)}
                data-testid="judge-picked"
              >
                {pickedRows.length ? `${pickedRows.length} picked: judged` : "Judge the picked"}
              </Button>
              <Button
                aria-keyshortcuts="A"
                title="Key: A"
                onClick={() => setPicked(new Set(rows.filter(isClean).map((r) => r.id)))}
              >
                Pick the clean ones
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
          <table className="w-full border-collapse">
            <thead>
              <tr>
                {teacher && (
                  <th className={HEAD}>
                    <span className="sr-only">Pick</span>
                  </th>
                )}
                {(steps.length > 0 ? [...HEADS, "Next step"] : HEADS).map((name) => (
                  <th key={name} className={HEAD} scope="col">
                    {name}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody ref={body}>
              {rows.map((row) => (
                <TakeRow
                  key={row.id}
                  take={row}
                  zone={me.zone}
                  here={row.id === current?.id}
                  picked={teacher ? picked.has(row.id) : null}
                  onPick={() => toggle(row.id)}
                  next={steps.length > 0 ? (next.of(row) ?? "none") : null}
                  onStep={() => next.confirm(next.of(row))}
                />
              ))}
            </tbody>
          </table>
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

const HEADS = ["Student", "Played", "Drill", "Note by note", "Result", "Probably"];
const HEAD = "border-b border-ink py-1 pr-4 text-left text-sm font-normal text-ink-soft";

function Nothing({
  filter,
  filtered,
  me,
  onAll,
}: {
  filter: DeskAsked;
  filtered: boolean;
  me: Me;
  onAll: () => void;
}) {
  if (filtered)
    return (
      <Empty title="No take fits what is shown">
        <Button onClick={onAll}>Show all students and drills</Button>
      </Empty>
    );
  if (filter.show === "waiting" && me.role === "teacher")
    return (
      <Empty title="Nothing waits to be judged">
        New takes come here by themselves. Drop a recording anywhere on this page, or use “Add a recording”
        (key U). WAV, FLAC, AIFF, OGG, Opus, WebM, MP3 and M4A are read, up to {me.upload_max_bytes / 1e6} MB
        and {me.take_max_minutes} minutes.
      </Empty>
    );
  return (
    <Empty title="No takes here yet">
      Drop a recording anywhere on this page, or use “Add a recording” (key U). WAV, FLAC, AIFF, OGG, Opus,
      WebM, MP3 and M4A are read, up to {me.upload_max_bytes / 1e6} MB and {me.take_max_minutes} minutes.
    </Empty>
  );
}
