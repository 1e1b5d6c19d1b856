import { useState } from "react";
import { api, data } from "~/api/client";
import type { FindingChosen, Sheet } from "~/api/week";
import { useAct } from "~/lib/useAct";
import { Button } from "~/ui/Button";
import { Field } from "~/ui/form/Field";
import { Select } from "~/ui/Select";
import { Failed } from "~/ui/states";

const MOST = 3;
const AREA = "rounded-md border border-rule-strong bg-sheet px-2 py-1 text-base text-ink";

/** The teacher's words, and which of the findings are on the page. */
export function WordsForm({ sheet, onKept }: { sheet: Sheet; onKept: () => void }) {
  const [note, setNote] = useState(sheet.note);
  const [paper, setPaper] = useState(sheet.paper);
  const [findings, setFindings] = useState<FindingChosen[]>(sheet.findings);
  const keep = useAct(
    () =>
      data(
        api.PUT("/api/v1/reports/sheets/{sheet_id}", {
          params: { path: { sheet_id: sheet.id } },
          body: { note, findings, paper },
        }),
      ),
    [["sheets"]],
    onKept,
  );
  const change = (at: number, part: Partial<FindingChosen>) =>
    setFindings((now) => now.map((f, i) => (i === at ? { ...f, ...part } : f)));
  const left = sheet.candidates
    .map((candidate, i) => ({ candidate, i }))
    .filter(({ i }) => !findings.some((f) => f.candidate === i));
  return (
    <form
      className="flex flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault();
        keep.mutate();
      }}
    >
      <label className="flex flex-col gap-1 text-sm text-ink-soft">
        A word for the student
        <textarea
          className={`${AREA} min-h-20`}
          maxLength={1500}
          value={note}
          onChange={(event) => setNote(event.target.value)}
        />
      </label>
      {findings.map((finding, at) => (
        <fieldset key={finding.candidate} className="flex flex-col gap-2 border-l-2 border-rule-strong pl-3">
          <legend className="sr-only">Finding {at + 1}</legend>
          <Field
            label={`${at + 1}. ${sheet.candidates[finding.candidate]?.drill ?? ""}`}
            words
            maxLength={200}
            value={finding.says}
            onText={(says) => change(at, { says })}
          />
          <label className="flex flex-col gap-1 text-sm text-ink-soft">
            To try, a line each
            <textarea
              className={`${AREA} min-h-16`}
              maxLength={1000}
              value={finding.tries}
              onChange={(event) => change(at, { tries: event.target.value })}
            />
          </label>
          <Button
            kind="quiet"
            className="self-start"
            onClick={() => setFindings((now) => now.filter((_, i) => i !== at))}
          >
            Leave it off the page
          </Button>
        </fieldset>
      ))}
      {findings.length < MOST && left.length > 0 && (
        <Select
          label="Another finding"
          value=""
          onChange={(value) => {
            const found = sheet.candidates[Number(value)];
            if (found)
              setFindings((now) => [
                ...now,
                { candidate: Number(value), says: found.says, tries: found.tries },
              ]);
          }}
          choices={left.map(({ candidate, i }) => ({
            value: String(i),
            label: `${candidate.says} (${candidate.drill})`,
          }))}
        />
      )}
      <Select
        label="Paper"
        value={paper}
        onChange={(value) => setPaper(value as Sheet["paper"])}
        choices={[
          { value: "A4", label: "A4" },
          { value: "Letter", label: "Letter" },
        ]}
      />
      {keep.error && <Failed error={keep.error} />}
      <Button kind="strong" type="submit" className="self-start" disabled={keep.isPending}>
        Put it on the page
      </Button>
    </form>
  );
}
