import { useState } from "react";
import type { NoiseEvent } from "~/api/client";
import { plusMinus, signed, verdictWords } from "~/lib/words";
import { Button } from "~/ui/Button";
import { FigureTable } from "~/ui/FigureTable";
import { eventWords, noiseFacts, notesDuring, touchWords } from "~/ui/take/noise.math";
import { FactList } from "./FactList";
import { useSheet } from "./sheetContext";
import { passageOf } from "./useListening";

const EVENTS = [
  { label: "What", words: true },
  { label: "From, s" },
  { label: "For, s" },
  { label: "Against the note, dB" },
  { label: "Verdict", words: true },
  { label: "Listen", words: true },
];
const STRINGS = [
  { label: "String" },
  { label: "Times" },
  { label: "Seconds" },
  { label: "Loudest, dB" },
  { label: "Heard from, dB" },
];
const SHOWN = 12;

/** What sounded and should not, event by event: each can be heard alone or as it was. */
export function Quiet() {
  const { measured, notes, player, selectedEvent: selected, selectEvent } = useSheet();
  const { ready } = player;
  const [all, setAll] = useState(false);
  const { noise_events: events, summary } = measured.analysis;
  if (!measured.drill.content.measures.includes("noise") || !summary.noise) return null;
  const facts = noiseFacts(summary);
  const shown = all ? events : events.slice(0, SHOWN);
  const play = (event: NoiseEvent, alone: boolean) => {
    selectEvent(event);
    player.play(passageOf(event, notes, alone));
  };
  const played = selected ? notesDuring(notes, selected).flatMap(({ note }) => note.string ?? []) : [];
  return (
    <section aria-label="Quiet" className="mb-6" data-testid="quiet">
      <h2 className="text-lg font-semibold">Quiet</h2>
      {events.length === 0 && (
        <p className="mb-1">Nothing sounds that should not, as far as it can be heard.</p>
      )}
      <FactList facts={facts} />
      {events.length > 0 && (
        <FigureTable
          columns={EVENTS}
          rows={shown.map((event) => ({
            key: `${event.kind}/${event.string}/${event.from_s}`,
            cells: [
              eventWords(event),
              event.from_s.toFixed(2),
              (event.to_s - event.from_s).toFixed(2),
              `${signed(event.level_db)} ${plusMinus(event.u)}`,
              event.verdict == null ? "the rig's" : verdictWords(event.verdict),
              <span key="listen" className="flex min-h-7 gap-1">
                {event.kind !== "hum" && (
                  <Button
                    className="min-h-7 px-2"
                    disabled={!ready}
                    aria-label={`${eventWords(event)} at ${event.from_s.toFixed(2)} s, in context`}
                    onClick={() => play(event, false)}
                  >
                    In context
                  </Button>
                )}
                {event.hz != null && event.string !== null && (
                  <Button
                    className="min-h-7 px-2"
                    disabled={!ready}
                    aria-label={`${eventWords(event)} at ${event.from_s.toFixed(2)} s, alone`}
                    aria-pressed={player.playing?.bands !== undefined && selected === event}
                    onClick={() => play(event, true)}
                  >
                    Alone
                  </Button>
                )}
              </span>,
            ],
          }))}
        />
      )}
      {events.length > SHOWN && (
        <Button kind="quiet" onClick={() => setAll(!all)}>
          {all ? "Fewer" : `All ${events.length}`}
        </Button>
      )}
      {selected?.string != null && touchWords(selected.string, played) && (
        <p className="mt-2 text-sm" data-testid="touch-words">
          String {selected.string}: {touchWords(selected.string, played)}
        </p>
      )}
      {summary.noise.strings.some((s) => s.events > 0) && (
        <div className="mt-3">
          <FigureTable
            columns={STRINGS}
            rows={summary.noise.strings.map((s) => ({
              key: String(s.string),
              cells: [
                s.string,
                s.events,
                s.seconds.toFixed(1),
                s.worst_db == null ? "–" : signed(s.worst_db),
                s.floor_db == null ? "–" : s.floor_db >= 0 ? "covered" : signed(s.floor_db, 0),
              ],
            }))}
          />
        </div>
      )}
    </section>
  );
}
