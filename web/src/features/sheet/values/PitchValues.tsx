import type { Note, VibratoAsked } from "~/api/client";
import type { Tolerances } from "~/ui/take/notes.math";

type BendFound = NonNullable<Note["bend"]>;
type PitchFound = NonNullable<Note["pitch"]>;
type VibratoFound = NonNullable<Note["vibrato"]>;
type SlideFound = NonNullable<Note["slide"]>;

import { number, percent, plain, Value, Values } from "./Value";

/** Every value of a slide. */
export function SlideValues({ slide }: { slide: SlideFound }) {
  return (
    <Values>
      <Value
        label="Slide, on its way for"
        about="slide"
        value={number(slide.travel_ms, 0)}
        u={slide.u}
        unit="ms"
      />
      <Value
        label="Slide, volume kept"
        value={plain(slide.level_change_db)}
        unit="dB"
        tolerance="at least −12"
      />
      {slide.late_ms !== null && (
        <Value label="Slide, there later than asked" value={plain(slide.late_ms)} u={slide.u} unit="ms" />
      )}
    </Values>
  );
}

/** Every value of a bend, by its kind. */
export function BendValues({ bend, tolerances }: { bend: BendFound; tolerances: Tolerances }) {
  const target = bend.target_cents;
  const asked = Array.isArray(target) ? `${target[0]} to ${target[1]}` : String(target);
  const released = bend.kind === "prebend" || bend.kind === "release";
  return (
    <Values>
      <Value label="Asked" value={asked} unit="cents" />
      <Value label="Starts at" value={number(bend.start_cents)} u={released ? bend.u : null} unit="cents" />
      {bend.kind === "unison" ? (
        <UnisonValues bend={bend} tolerances={tolerances} />
      ) : (
        <>
          <Value
            label={bend.kind === "curl" ? "Peak" : "Reached"}
            value={number(bend.reached_cents)}
            u={bend.u}
            unit="cents"
          />
          <Value
            label={released ? "Error of the start" : "Error"}
            about="bend"
            value={plain(bend.error_cents)}
            u={bend.u}
            unit="cents"
            tolerance={Array.isArray(target) ? "" : `± ${tolerances.bendError}`}
            decides="bend"
          />
          <Value
            label="… to equal temperament"
            value={plain(bend.error_tempered_cents ?? null)}
            unit="cents"
          />
          <Value
            label={released ? "Release, 10–90 %" : "Rise, 10–90 %"}
            value={number(bend.rise_ms, 0)}
            unit="ms"
          />
          {bend.arrives_ms != null && (
            <Value
              label="Holds from the stroke"
              value={number(bend.arrives_ms, 0)}
              u={bend.u_arrives_ms ?? null}
              unit="ms"
            />
          )}
        </>
      )}
      {released && (
        <Value
          label="Landing"
          about="bend"
          value={plain(bend.landing_error_cents)}
          u={bend.u_landing}
          unit="cents"
          tolerance={`± ${tolerances.bendError}`}
        />
      )}
      {bend.kind === "bend" && (
        <>
          <Value label="Overshoot" value={number(bend.overshoot_cents)} unit="cents" />
          <Value
            label="Hold, SD"
            about="hold"
            value={number(bend.hold_sd_cents)}
            unit="cents"
            tolerance={`up to ${tolerances.holdSd}`}
          />
          <Value
            label="Hold, drift"
            about="hold"
            value={plain(bend.hold_drift_cents_per_s)}
            u={bend.u_hold_drift ?? null}
            unit="cents/s"
          />
          <Value label="Choked" value={bend.choked === null ? null : bend.choked ? "yes" : "no"} unit="" />
        </>
      )}
      <Value label="Reference" value={bend.reference_hz?.toFixed(2) ?? null} unit="Hz" />
      <tr>
        <td colSpan={4} className="pt-1 text-ink-soft" data-testid="reference">
          {referenceWords(bend.reference_source)}
        </td>
      </tr>
    </Values>
  );
}

function UnisonValues({ bend, tolerances }: { bend: BendFound; tolerances: Tolerances }) {
  return (
    <>
      <Value label="Difference" value={plain(bend.difference_cents)} u={bend.u} unit="cents" />
      <Value
        label="Beating"
        about="beating"
        value={number(bend.beat_hz, 2)}
        u={bend.u_beat}
        unit="Hz"
        tolerance={`up to ${tolerances.beatHz}`}
        decides="bend"
      />
      <Value label="Together after" value={number(bend.merge_ms, 0)} unit="ms" />
    </>
  );
}

export function PitchValues({ pitch, tolerances }: { pitch: PitchFound; tolerances: Tolerances }) {
  return (
    <Values>
      <Value label="Pitch" value={pitch.median_hz?.toFixed(2) ?? null} unit="Hz" />
      <Value
        label="Error"
        about="pitch"
        value={plain(pitch.error_cents)}
        u={pitch.u}
        unit="cents"
        tolerance={pitch.verdict === null ? undefined : `± ${tolerances.plainPitch}`}
        decides="pitch"
      />
    </Values>
  );
}

/** Rate and width are the player's voice: they have a tolerance only where the drill asks for one. */
export function VibratoValues({
  vibrato,
  asked,
  tolerances,
}: {
  vibrato: VibratoFound;
  asked: VibratoAsked | null;
  tolerances: Tolerances;
}) {
  const corridor = (range: readonly number[] | null | undefined) =>
    range ? `${range[0]} to ${range[1]}` : undefined;
  return (
    <Values title="Vibrato">
      <Value
        label="Rate"
        about="vibrato"
        value={number(vibrato.rate_hz, 2)}
        u={vibrato.u_rate}
        digits={3}
        unit="Hz"
        tolerance={corridor(asked?.rate_hz)}
      />
      <Value
        label={`Width${vibrato.shape ? ` (${vibrato.shape})` : ""}`}
        value={number(vibrato.extent_cents)}
        u={vibrato.u_extent}
        up={vibrato.u_wider}
        unit="cents"
        tolerance={corridor(asked?.extent_cents)}
      />
      <Value
        label={`Comes back (${asked?.return ?? "line"})`}
        about="vibrato"
        value={plain(vibrato.return_error_cents)}
        u={vibrato.u_return}
        unit="cents"
        tolerance={`± ${tolerances.vibratoReturn}`}
        decides="vibrato"
      />
      <Value label="… SD" value={number(vibrato.return_sd_cents)} unit="cents" />
      <Value
        label="Uneven in time"
        about="vibrato"
        value={percent(vibrato.rate_cv)}
        unit="%"
        tolerance={`up to ${percent(tolerances.rateCv)}`}
      />
      <Value
        label="Uneven in width"
        about="vibrato"
        value={percent(vibrato.extent_cv)}
        unit="%"
        tolerance={`up to ${percent(tolerances.extentCv)}`}
      />
      <Value label="Cycles" value={String(vibrato.cycles)} unit="" />
      <Value label="Fade beyond the string's own" value={plain(vibrato.fade_db_per_s)} unit="dB/s" />
    </Values>
  );
}

function referenceWords(source: string): string {
  const words: Record<string, string> = {
    temperament: "Against equal temperament.",
    "set-up": "Against the tuning of the guitar’s set-up take.",
    "other takes": "Against the same fretted note in other takes on this guitar.",
    "steady string": "Against the string that is not bent.",
  };
  return words[source] ?? `Against this student's own fretted note “${source}” in this take.`;
}
