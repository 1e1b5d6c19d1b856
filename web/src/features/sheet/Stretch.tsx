import { useState } from "react";
import { Button } from "~/ui/Button";
import { Field } from "~/ui/form/Field";
import { withStretch } from "~/ui/take/tries.math";
import { useSheet } from "./sheetContext";

/** A stretch of the recording that was marked by pointer, or by its seconds: played, or left out. */
export function Stretch() {
  const { teacher, stretch } = useSheet();
  if (!teacher) return null;
  return (
    <details className="mt-3 mb-4 print:hidden" open={stretch !== null || undefined} data-testid="stretch">
      <summary className="cursor-pointer text-sm underline">Leave a part of the recording out</summary>
      <Marked key={stretch?.join() ?? "none"} />
    </details>
  );
}

function Marked() {
  const { measured, player, stretch, markStretch, trying } = useSheet();
  const [from, setFrom] = useState(stretch ? stretch[0].toFixed(2) : "");
  const [to, setTo] = useState(stretch ? stretch[1].toFixed(2) : "");
  const [problem, setProblem] = useState<string | null>(null);
  const durationS = measured.analysis.take.duration_s;
  const leaveOut = () => {
    const span = [Number(from), Number(to)] as const;
    if (from === "" || to === "" || !(span[0] >= 0 && span[1] > span[0] && span[0] < durationS)) {
      setProblem(
        `Give two times within the recording, 0 to ${durationS.toFixed(1)} s, the earlier one first.`,
      );
      return;
    }
    setProblem(null);
    markStretch(null);
    trying.begin({ pins: withStretch(measured.pins ?? [], span) });
  };
  return (
    <form
      className="mt-2 flex flex-wrap items-end gap-3"
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        leaveOut();
      }}
    >
      <p className="w-full text-sm text-ink-soft">
        Another drill, talk, a second player: drag over the waveform, or say from when to when. The rest is
        aligned again around it.
      </p>
      <Field label="From" unit="s" type="number" step="0.01" className="w-28" value={from} onText={setFrom} />
      <Field label="To" unit="s" type="number" step="0.01" className="w-28" value={to} onText={setTo} />
      {stretch && (
        <Button
          disabled={!player.ready}
          onClick={() =>
            player.play({ from: stretch[0], to: stretch[1], toneHz: null, withTake: true, rate: 1 })
          }
        >
          Play it
        </Button>
      )}
      <Button type="submit" disabled={trying.pending}>
        Not part of the drill
      </Button>
      {problem && (
        <p role="alert" className="w-full">
          {problem}
        </p>
      )}
    </form>
  );
}
