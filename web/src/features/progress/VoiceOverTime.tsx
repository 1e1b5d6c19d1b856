import { Link } from "react-router";
import type { VoicePoint } from "~/api/week";
import { day, onWords } from "~/lib/words";
import { FigureTable } from "~/ui/FigureTable";

const MOST_ROWS = 12;

/** The student's vibrato from take to take. A voice has no better and no worse. */
export function VoiceOverTime({ points, zone }: { points: VoicePoint[]; zone: string }) {
  return (
    <section aria-label="Vibrato over time">
      <h2 className="border-b border-ink pb-1 text-lg font-semibold">Vibrato over time</h2>
      <p className="mt-1 mb-2 text-sm text-ink-soft">
        Rate and width are a player’s voice; they are shown, not judged.
      </p>
      <FigureTable
        columns={[
          { label: "Take", words: true },
          { label: "On", words: true },
          { label: "a second" },
          { label: "cents wide" },
        ]}
        rows={[...points]
          .reverse()
          .slice(0, MOST_ROWS)
          .map((p) => ({
            key: `${p.take_id}-${p.on}`,
            cells: [
              <Link key="take" className="underline" to={`/takes/${p.take_id}`}>
                {day(p.at, zone)}
              </Link>,
              onWords(p.on),
              p.rate_hz.toFixed(1),
              p.extent_cents.toFixed(0),
            ],
          }))}
      />
    </section>
  );
}
