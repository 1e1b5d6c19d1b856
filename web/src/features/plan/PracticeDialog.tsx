import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api, data } from "~/api/client";
import { type Plan, plansKey } from "~/api/week";
import { typedNumber } from "~/lib/typed";
import { useAct } from "~/lib/useAct";
import { Button, buttonClass } from "~/ui/Button";
import { Dialog } from "~/ui/Dialog";
import { Field } from "~/ui/form/Field";
import { LinkOnce } from "~/ui/LinkOnce";
import { Failed } from "~/ui/states";

const DAYS = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];

/** Minutes on each weekday, the hour, and the plan in a calendar. */
export function PracticeDialog({
  studentId,
  practice,
  onClose,
}: {
  studentId: number;
  practice: Plan["practice"];
  onClose: () => void;
}) {
  const [minutes, setMinutes] = useState(practice.minutes.map(String));
  const [at, setAt] = useState(practice.at.slice(0, 5));
  const path = { params: { path: { student_id: studentId } } };
  const keep = useAct(
    () =>
      api.PUT("/api/v1/plans/practice/{student_id}", {
        ...path,
        body: { minutes: minutes.map((m, i) => typedNumber(m, DAYS[i] ?? "") ?? 0), at },
      }),
    [plansKey],
    onClose,
  );
  const feed = useMutation({
    mutationFn: () => data(api.POST("/api/v1/plans/feed/{student_id}", path)),
  });
  const endFeed = useAct(() => api.DELETE("/api/v1/plans/feed/{student_id}", path), [plansKey], onClose);
  return (
    <Dialog
      open
      onOpenChange={(now) => !now && onClose()}
      title="Practice times"
      description="Short and often: the plan never asks for more than these minutes, and leaves free days free."
    >
      <form
        onSubmit={(event) => {
          event.preventDefault();
          keep.mutate();
        }}
      >
        <div className="grid grid-cols-4 gap-3 sm:grid-cols-7">
          {DAYS.map((name, i) => (
            <Field
              key={name}
              label={name}
              inputMode="numeric"
              value={minutes[i] ?? ""}
              onText={(text) => setMinutes((now) => now.map((m, j) => (j === i ? text : m)))}
            />
          ))}
        </div>
        <div className="mt-3 flex items-end gap-3">
          <Field label="At (for calendars)" type="time" className="w-36" value={at} onText={setAt} />
          <Button kind="strong" type="submit" className="min-h-9" disabled={keep.isPending}>
            Keep
          </Button>
        </div>
      </form>
      {keep.error && <Failed error={keep.error} />}
      <h3 className="mt-6 border-b border-ink pb-1 font-semibold">In a calendar</h3>
      <div className="mt-3 flex flex-wrap gap-2">
        <a className={buttonClass()} href={`/api/v1/plans/calendar/${studentId}`} download>
          Save as a calendar file
        </a>
        <Button onClick={() => feed.mutate()} disabled={feed.isPending}>
          {practice.feed ? "A new calendar address" : "An address that keeps up to date"}
        </Button>
        {practice.feed && (
          <Button onClick={() => endFeed.mutate()} disabled={endFeed.isPending}>
            End the address
          </Button>
        )}
      </div>
      {feed.data && (
        <LinkOnce
          link={feed.data.link}
          says="Give this address to a calendar program. Whoever has it can read the plan; a new one ends the old one."
        />
      )}
      {(feed.error ?? endFeed.error) && <Failed error={feed.error ?? endFeed.error} />}
    </Dialog>
  );
}
