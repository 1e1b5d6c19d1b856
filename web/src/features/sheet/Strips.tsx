import { useMemo } from "react";
import { TuneContext, tuneHeightFor, tuneOf } from "~/ui/strips/tuneHeight";
import { Minimap } from "./Minimap";
import { Stacked } from "./Stacked";
import { StripsBar } from "./StripsBar";
import { StripsInLine } from "./StripsInLine";
import { useSheet } from "./sheetContext";

/** Tab line, strips and waveform on one axis of beats; a strip only where the drill asks for what it shows. */
export function Strips() {
  const { measured, notes, view, curves, tolerances, lanes, arrangement, choice, selectedEvent } = useSheet();
  const tune = useMemo(() => tuneOf(tuneHeightFor(lanes)), [lanes]);
  return (
    <section aria-label="Strips" className="print:break-inside-avoid">
      <Minimap view={view} notes={notes} curves={curves} />
      {arrangement === "line" ? (
        <TuneContext value={tune}>
          <StripsInLine />
        </TuneContext>
      ) : (
        <Stacked
          measured={measured}
          whole={view.axis}
          selected={choice.selected}
          onSelect={choice.select}
          name={lanes.includes(arrangement) ? arrangement : "tune"}
          curves={curves}
          notes={notes}
          tolerances={tolerances}
          extras={measured.analysis.extras}
          events={measured.analysis.noise_events}
          selectedEvent={selectedEvent}
          strings={measured.drill.content.tuning.length}
        />
      )}
      <StripsBar />
    </section>
  );
}
