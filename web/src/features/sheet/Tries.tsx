import { Button } from "~/ui/Button";
import {
  type Attempt,
  insteadOf,
  repeatsWords,
  stretchesOf,
  triesWords,
  withStretch,
} from "~/ui/take/tries.math";
import { useSheet } from "./sheetContext";

/** What was broken off and begun again: heard, seen, and chosen; and what of the recording is not of the drill. */
export function Tries() {
  const { measured, notes, several, teacher, player, view, trying } = useSheet();
  const attempts = measured.analysis.attempts ?? [];
  const pins = measured.pins ?? [];
  const left = stretchesOf(pins);
  const repeats = repeatsWords(notes);
  if (attempts.length === 0 && left.length === 0 && !repeats) return null;
  const play = (from: number, to: number) => {
    view.reveal(from, to);
    player.play({ from: Math.max(0, from - 0.2), to: to + 0.2, toneHz: null, withTake: true, rate: 1 });
  };
  const count = (attempt: Attempt) => {
    const stretch = insteadOf(attempt, notes);
    if (stretch) trying.begin({ pins: withStretch(pins, stretch) });
  };
  return (
    <section aria-label="Tries" className="mb-6" data-testid="tries">
      <h2 className="text-lg font-semibold">Tries</h2>
      {repeats && <p data-testid="repeats-played">{repeats}</p>}
      {triesWords(attempts, notes, several).map((line) => (
        <p key={line} data-testid="tries-taken">
          {line}
        </p>
      ))}
      <ul className="mt-1 text-sm">
        {attempts.map((attempt) => {
          const { repeat, place, notes: heard, from_s, to_s } = attempt;
          const what = `${several ? `Repeat ${repeat + 1}, ` : ""}${place}: broken off after ${heard} ${heard === 1 ? "note" : "notes"}`;
          return (
            <li
              key={from_s}
              className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-rule py-1"
              data-testid="begun-again"
            >
              <span className="grow">
                {what}{" "}
                <span className="figures text-ink-soft">
                  {from_s.toFixed(1)} to {to_s.toFixed(1)} s
                </span>
              </span>
              <Button
                className="min-h-7 px-2"
                disabled={!player.ready}
                aria-label={`Play: ${what}`}
                onClick={() => play(from_s, to_s)}
              >
                Play
              </Button>
              {teacher && (
                <Button
                  className="min-h-7 px-2"
                  disabled={trying.pending}
                  aria-label={`Count this try instead: ${what}`}
                  onClick={() => count(attempt)}
                >
                  Count this try instead
                </Button>
              )}
            </li>
          );
        })}
        {left.map(([from, to]) => (
          <li
            key={from}
            className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-rule py-1"
            data-testid="left-out"
          >
            <span className="grow">
              Not part of the drill{" "}
              <span className="figures text-ink-soft">
                {from.toFixed(1)} to {to.toFixed(1)} s
              </span>
            </span>
            <Button className="min-h-7 px-2" disabled={!player.ready} onClick={() => play(from, to)}>
              Play
            </Button>
            {teacher && (
              <Button
                className="min-h-7 px-2"
                disabled={trying.pending}
                onClick={() => trying.begin({ pins: pins.filter((p) => p.at_s !== from || p.to_s !== to) })}
              >
                Count it again
              </Button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
