import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useState } from "react";
import { useSearchParams } from "react-router";
import { api, data, type EarKind, type EarRead } from "~/api/client";
import { presentStudentsQuery } from "~/api/queries";
import { useSound } from "~/lib/useSound";
import { earWords } from "~/lib/words";
import { Button } from "~/ui/Button";
import { Select } from "~/ui/Select";
import { Failed } from "~/ui/states";

type Said = "under" | "same" | "over";

const ASKED: Record<EarKind, { question: string; answers: Record<Said, string> }> = {
  pitch: {
    question: "Is the second note flat, the same, or sharp?",
    answers: { under: "flat", same: "the same", over: "sharp" },
  },
  bend: {
    question: "First the target, then a bend: does it arrive flat, in tune, or sharp?",
    answers: { under: "flat", same: "in tune", over: "sharp" },
  },
  timing: {
    question: "Four clicks; the note comes with the fourth: early, on it, or late?",
    answers: { under: "early", same: "on it", over: "late" },
  },
  level: {
    question: "Is the second note softer, the same, or louder?",
    answers: { under: "softer", same: "the same", over: "louder" },
  },
};
const KEYS: Record<string, Said> = { "1": "under", "2": "same", "3": "over" };
const UNIT: Record<string, string> = { cents: "cents", ms: "ms", db: "dB" };

/** How small a difference somebody hears; about two minutes. */
export function EarCheck() {
  const [query, setQuery] = useSearchParams();
  const students = useQuery(presentStudentsQuery);
  const student = query.get("student") ?? String(students.data?.[0]?.id ?? "");
  const kind = (query.get("kind") ?? "pitch") as EarKind;
  const choose = (part: Record<string, string>) => setQuery({ student, kind, ...part }, { replace: true });
  const [check, setCheck] = useState<EarRead | null>(null);
  const start = useMutation({
    mutationFn: () =>
      data(api.POST("/api/v1/bench/ear-checks", { body: { student_id: Number(student), kind } })),
    onSuccess: setCheck,
  });
  return (
    <section aria-label="Ear check" data-testid="ear">
      <h1 className="text-2xl font-bold">Ear check</h1>
      <p className="mb-5 max-w-prose text-ink-soft">
        Two sounds, a little apart or not at all. The differences become smaller until you no longer hear
        them. About two minutes, with headphones at a moderate level, in a quiet room.
      </p>
      {check && !check.finished ? (
        <Trials check={check} onCheck={setCheck} onLeave={() => setCheck(null)} />
      ) : (
        <div className="flex flex-wrap items-end gap-4">
          <div className="w-56">
            <Select
              label="Who listens"
              value={student}
              onChange={(value) => choose({ student: value })}
              choices={(students.data ?? []).map((s) => ({ value: String(s.id), label: s.name }))}
            />
          </div>
          <div className="w-56">
            <Select
              label="To what"
              value={kind}
              onChange={(value) => choose({ kind: value })}
              choices={Object.keys(ASKED).map((k) => ({ value: k, label: earWords(k) }))}
            />
          </div>
          <Button
            kind="strong"
            className="min-h-9"
            disabled={!student || start.isPending}
            onClick={() => start.mutate()}
          >
            Begin
          </Button>
        </div>
      )}
      {start.error && <Failed error={start.error} />}
      {check?.finished && <Result check={check} />}
      <p className="mt-10 max-w-3xl border-t border-rule pt-3 text-sm text-ink-soft">
        Method: a staircase, two right answers down and one wrong up, chooses the differences (Levitt 1971);
        all answers together give the difference that is told right 71 times of 100 (signal detection; Green
        and Swets 1966), with its uncertainty of about 95 %. Every fifth trial has no difference.
      </p>
    </section>
  );
}

function Trials({
  check,
  onCheck,
  onLeave,
}: {
  check: EarRead;
  onCheck: (check: EarRead) => void;
  onLeave: () => void;
}) {
  const sound = useSound();
  const queries = useQueryClient();
  const { play } = sound;
  const address = `/api/v1/bench/ear-checks/${check.id}/sound?trial=${check.answered}`;
  const { question, answers } = ASKED[check.kind];
  const answer = useMutation({
    mutationFn: (said: Said) =>
      data(
        api.POST("/api/v1/bench/ear-checks/{check_id}/answers", {
          params: { path: { check_id: check.id } },
          body: { number: check.answered, said },
        }),
      ),
    onSuccess: (next) => {
      onCheck(next);
      if (next.finished) void queries.invalidateQueries({ queryKey: ["ear-checks"] });
    },
  });
  const { mutate, isPending } = answer;
  const say = useCallback((said: Said) => !isPending && mutate(said), [mutate, isPending]);
  useEffect(() => play(address), [play, address]);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      const said = KEYS[event.key];
      if (said) say(said);
      else if (event.key.toLowerCase() === "r") play(address);
      else return;
      event.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [say, play, address]);
  return (
    <div className="border-y border-ink py-6">
      <p className="text-sm text-ink-soft" data-answered={check.answered}>
        Trial {check.answered + 1}
      </p>
      <p className="mt-1 text-lg font-semibold">{question}</p>
      <div className="mt-4 flex flex-wrap gap-3">
        {(["under", "same", "over"] as const).map((said, i) => (
          <Button
            key={said}
            className="min-h-11 min-w-32 text-base"
            aria-keyshortcuts={String(i + 1)}
            onClick={() => say(said)}
          >
            {answers[said]} <span className="figures text-ink-soft">{i + 1}</span>
          </Button>
        ))}
        <Button kind="quiet" onClick={() => play(address)} aria-keyshortcuts="r">
          Again <span className="figures text-ink-soft">R</span>
        </Button>
      </div>
      {sound.failed && (
        <p role="alert" className="mt-3 text-sm">
          The sound does not play. Press Again; if that does not help, check the browser’s sound output.
        </p>
      )}
      {answer.error && <Failed error={answer.error} onRetry={onLeave} />}
      <Button kind="quiet" className="mt-5 px-0 underline" onClick={onLeave}>
        Stop here; nothing is kept
      </Button>
    </div>
  );
}

function Result({ check }: { check: EarRead }) {
  return (
    <div role="status" className="mt-6 border-y border-ink py-5" data-testid="ear-result">
      {check.threshold !== null && check.u !== null ? (
        <p className="text-2xl font-bold">
          {check.threshold.toFixed(1)}{" "}
          <span className="figures text-base font-normal">
            ± {check.u.toFixed(1)} {UNIT[check.unit]}
          </span>
        </p>
      ) : (
        <p className="text-lg font-semibold">
          {check.reason === "beyond_range"
            ? "No difference offered here was told reliably. Check the sound output and try again."
            : "The answers did not settle. Try again after a pause."}
        </p>
      )}
      <p className="text-ink-soft">
        {earWords(check.kind)}: the smallest difference told right 71 times of 100, from {check.answered}{" "}
        trials.
        {check.false_alarms !== null &&
          ` Heard something where nothing was: ${Math.round(100 * check.false_alarms)} %.`}
      </p>
    </div>
  );
}
