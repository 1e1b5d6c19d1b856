import type { TakeMeasured } from "~/api/client";
import { Button } from "~/ui/Button";
import { FigureTable } from "~/ui/FigureTable";
import { extraWords } from "~/ui/take/rhythm.math";
import { nearest } from "~/ui/take/sheet.math";
import { useSheet } from "./sheetContext";

type Extra = TakeMeasured["analysis"]["extras"][number];

const COLUMNS = [
  { label: "What", words: true },
  { label: "At, s" },
  { label: "Near note" },
  { label: "Counts", words: true },
  { label: "", words: true },
];
const AROUND_S = 0.6;

/** Sounds nobody asked for: each can be heard, and be called meant. */
export function Extras() {
  const { measured, word, teacher, player, notes, choice } = useSheet();
  const { extras } = measured.analysis;
  if (extras.length === 0) return null;
  const play = (extra: Extra) =>
    player.play({
      from: Math.max(0, extra.onset_s - AROUND_S),
      to: extra.onset_s + AROUND_S,
      toneHz: null,
      withTake: true,
      rate: 1,
    });
  return (
    <section aria-label="Extra sounds" className="mb-6" data-testid="extras">
      <h2 className="text-lg font-semibold">Extra sounds</h2>
      <FigureTable
        columns={COLUMNS}
        rows={extras.map((extra) => {
          const near = nearest(notes, extra.onset_s);
          const at = extra.onset_s.toFixed(2);
          return {
            key: String(extra.onset_s),
            cells: [
              extraWords(extra.kind),
              at,
              near ? (
                <button
                  key="near"
                  type="button"
                  className="underline"
                  onClick={() => choice.select(near.key)}
                >
                  {near.place}
                </button>
              ) : (
                "–"
              ),
              extra.said === "meant" ? "no: intentional" : extra.said === "excluded" ? "no" : "yes",
              <span key="do" className="flex gap-1 print:hidden">
                <Button
                  className="min-h-7 px-2"
                  disabled={!player.ready}
                  aria-label={`Hear the extra sound at ${at} s`}
                  onClick={() => play(extra)}
                >
                  Hear
                </Button>
                {teacher && !extra.said && (
                  <Button
                    className="min-h-7 px-2"
                    disabled={word.pending}
                    aria-label={`The extra sound at ${at} s is intentional`}
                    onClick={() => word.say({ kind: "meant", notes: [], at_s: extra.onset_s, text: "" })}
                  >
                    Intentional
                  </Button>
                )}
              </span>,
            ],
          };
        })}
      />
    </section>
  );
}
