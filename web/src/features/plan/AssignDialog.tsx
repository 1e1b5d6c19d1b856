import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type DrillRead, data } from "~/api/client";
import { drillsQuery } from "~/api/queries";
import { type Assignment, plansKey } from "~/api/week";
import { holdsWords } from "~/lib/search";
import { useAct } from "~/lib/useAct";
import { familyWords } from "~/lib/words";
import { Button } from "~/ui/Button";
import { Dialog } from "~/ui/Dialog";
import { Field } from "~/ui/form/Field";
import { Tick } from "~/ui/form/Tick";
import { Select } from "~/ui/Select";
import { Failed, Loading } from "~/ui/states";
import { TermsForm } from "./TermsForm";
import { fieldsFor, stepOf, type TermFields, termsOf } from "./terms.math";

const MOST_SHOWN = 12;

/** A drill for a student to work on: first which, then on what terms. */
export function AssignDialog({
  studentId,
  running,
  open,
  onClose,
}: {
  studentId: number;
  running: Assignment[];
  open: boolean;
  onClose: () => void;
}) {
  const [drill, setDrill] = useState<DrillRead | null>(null);
  const [fields, setFields] = useState<TermFields>(fieldsFor(60));
  const [both, setBoth] = useState(true);
  const partnerId = drill?.partner_id ?? null;
  const partnered = partnerId !== null && !running.some((a) => a.drill_id === partnerId);
  const one = (drillId: number, pairId: number | null) => {
    const terms = termsOf(fields);
    return data(
      api.POST("/api/v1/plans/assignments", {
        body: {
          ...terms,
          pair_id: pairId ?? terms.pair_id ?? null,
          student_id: studentId,
          drill_id: drillId,
          step: stepOf(fields.bpm, fields.perClick),
        },
      }),
    );
  };
  const assign = useAct(
    async () => {
      const first = await one(drill?.id ?? 0, null);
      if (partnered && both && partnerId !== null) await one(partnerId, first.id);
    },
    [plansKey],
    () => close(),
  );
  const close = () => {
    setDrill(null);
    assign.reset();
    onClose();
  };
  return (
    <Dialog
      open={open}
      onOpenChange={(now) => !now && close()}
      title={drill ? drill.title : "Assign a drill"}
      wide
    >
      {!drill && (
        <ChooseDrill
          taken={new Set(running.map((a) => a.drill_id))}
          onChosen={(chosen) => {
            setDrill(chosen);
            setFields(fieldsFor(chosen.bpm));
          }}
        />
      )}
      {drill && (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            assign.mutate();
          }}
        >
          <TermsForm
            fields={fields}
            onChange={(part) => setFields((now) => ({ ...now, ...part }))}
            free={drill.bpm === null}
            others={running}
            begins
          />
          {partnered && (
            <Tick
              className="mt-4"
              label="with the same figure the other way, as a pair that stays within a step"
              checked={both}
              onChange={setBoth}
            />
          )}
          {drill.after_id !== null && <First id={drill.after_id} running={running} />}
          {assign.error && <Failed error={assign.error} />}
          <div className="mt-5 flex justify-end gap-3">
            <Button onClick={() => setDrill(null)}>Another drill</Button>
            <Button kind="strong" type="submit" disabled={assign.isPending}>
              Assign it
            </Button>
          </div>
        </form>
      )}
    </Dialog>
  );
}

function ChooseDrill({ taken, onChosen }: { taken: Set<number>; onChosen: (drill: DrillRead) => void }) {
  const drills = useQuery(drillsQuery);
  const [text, setText] = useState("");
  const [family, setFamily] = useState("all");
  if (drills.isPending) return <Loading what="drills" />;
  if (drills.error) return <Failed error={drills.error} onRetry={() => drills.refetch()} />;
  const offered = drills.data.filter((d) => !d.archived && !taken.has(d.id) && d.family !== "set_up");
  const found = offered.filter(
    (d) => (family === "all" || d.family === family) && holdsWords(`${d.title} ${d.tags.join(" ")}`, text),
  );
  return (
    <>
      <div className="mb-3 grid grid-cols-2 gap-3">
        <Field label="Search" words value={text} onText={setText} />
        <Select
          label="Kind"
          value={family}
          onChange={setFamily}
          choices={[
            { value: "all", label: "All kinds" },
            ...[...new Set(offered.map((d) => d.family))].map((f) => ({ value: f, label: familyWords(f) })),
          ]}
        />
      </div>
      <ul className="border-t border-ink">
        {found.slice(0, MOST_SHOWN).map((d) => (
          <li key={d.id} className="border-b border-rule">
            <button
              type="button"
              className="flex w-full justify-between gap-4 py-2 text-left hover:bg-corridor"
              onClick={() => onChosen(d)}
            >
              <span>{d.title}</span>
              <span className="text-sm whitespace-nowrap text-ink-soft">
                {d.bpm ? `${d.bpm} bpm` : "free time"}
              </span>
            </button>
          </li>
        ))}
      </ul>
      <p className="mt-2 text-sm text-ink-soft">
        {found.length === 0
          ? "No drill fits."
          : found.length > MOST_SHOWN && `${found.length - MOST_SHOWN} more; search for them.`}
      </p>
    </>
  );
}

/** What should be safe before a drill: advice. */
function First({ id, running }: { id: number; running: Assignment[] }) {
  const drills = useQuery(drillsQuery);
  const first = drills.data?.find((d) => d.id === id);
  if (!first) return null;
  const own = running.find((a) => a.drill_id === id);
  return (
    <p className="mt-4 text-sm text-ink-soft" data-testid="comes-first">
      Usually after “{first.title}”,{" "}
      {own ? `which is at ${own.step_words}.` : "which is not assigned to this student."}
    </p>
  );
}
