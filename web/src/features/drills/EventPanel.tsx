import { memo } from "react";
import type { DrillContent, DrillEvent } from "~/api/client";
import { Field } from "~/ui/form/Field";
import { Tick } from "~/ui/form/Tick";
import { Select } from "~/ui/Select";
import { Range } from "./EventFields";
import { type Articulation, type Cell, change, eventAt, noteAt, resize } from "./edit.math";
import { withReference } from "./editing.math";
import {
  ARTICULATIONS,
  bendOf,
  CURL,
  FINGERS,
  KINDS,
  lengthFrom,
  lengthText,
  placeOfId,
  RETURNS,
  STROKES,
  sizes,
  struckAs,
} from "./event.math";

export interface EventPanelProps {
  drill: DrillContent;
  cell: Cell;
  onChange: (make: (drill: DrillContent) => DrillContent) => void;
}

/** What stands at the cursor, to be read and set without keys. */
export const EventPanel = memo(function EventPanel({ drill, cell, onChange }: EventPanelProps) {
  const event = eventAt(drill, cell.beat);
  const note = noteAt(drill, cell);
  if (!event)
    return (
      <p className="text-ink-soft">Nothing begins here. Write a fret (0–24), X for muted, R for a rest.</p>
    );
  const length = (
    <Field
      key={`length ${event.id} ${event.length}`}
      label="Length"
      unit="beats"
      className="w-32"
      defaultValue={lengthText(event.length)}
      onBlur={(e) => {
        const beats = lengthFrom(e.target.value);
        if (beats !== null && Math.abs(beats - event.length) > 1e-4)
          onChange((d) => resize(d, event.beat, beats));
      }}
    />
  );
  if (event.notes.length === 0)
    return (
      <div className="flex flex-wrap items-end gap-4">
        <p className="basis-full font-semibold">A rest: silence that is judged</p>
        {length}
      </div>
    );
  const bend = event.bend;
  const setBend = (next: DrillEvent["bend"]) => onChange((d) => withReference(d, cell, next));
  const corridor = bend && Array.isArray(bend.target_cents) ? bend.target_cents : null;
  return (
    <div data-testid="event-panel">
      <p className="mb-2 font-semibold">
        {event.notes
          .map((n) => `string ${n.string} ${n.muted ? "muted" : `fret ${n.fret}`}`)
          .join(", ")
          .replace(/^s/, "S")}
        {note ? "" : ` (the cursor is on string ${cell.string})`}
      </p>
      <div className="grid grid-cols-2 items-end gap-x-4 gap-y-3 sm:grid-cols-3">
        <Select
          label="Struck"
          value={event.articulation}
          onChange={(value) => onChange((d) => change(d, event.beat, struckAs(value as Articulation)))}
          choices={ARTICULATIONS}
        />
        {length}
        {note && !note.muted && (
          <Select
            label="Finger"
            value={note.finger ?? "none"}
            onChange={(finger) =>
              onChange((d) =>
                change(d, event.beat, {
                  notes: event.notes.map((n) =>
                    n.string === note.string
                      ? { ...n, finger: finger === "none" ? null : (finger as "1") }
                      : n,
                  ),
                }),
              )
            }
            choices={FINGERS}
          />
        )}
        {!["hammer", "pull", "slide", "tap"].includes(event.articulation) && (
          <Select
            label="Stroke"
            value={event.stroke ?? "none"}
            onChange={(stroke) =>
              onChange((d) =>
                change(d, event.beat, { stroke: stroke === "none" ? null : (stroke as "down") }),
              )
            }
            choices={STROKES}
          />
        )}
        <Select
          label="Vibrato"
          value={event.vibrato?.return ?? "none"}
          onChange={(value) =>
            onChange((d) =>
              change(d, event.beat, {
                vibrato:
                  value === "none"
                    ? null
                    : {
                        rate_hz: event.vibrato?.rate_hz ?? null,
                        extent_cents: event.vibrato?.extent_cents ?? null,
                        return: value as "bottom",
                      },
              }),
            )
          }
          choices={RETURNS}
        />
        <Select
          label="Bend"
          value={bend?.kind ?? "none"}
          onChange={(kind) => setBend(bendOf(kind, bend))}
          choices={KINDS}
        />
        {bend && !corridor && (
          <Select
            label="How far"
            value={String(bend.target_cents)}
            onChange={(cents) => setBend({ ...bend, target_cents: Number(cents) })}
            choices={sizes(bend.target_cents as number)}
          />
        )}
        {bend && corridor && (
          <Range
            key={`curl ${event.id} ${corridor}`}
            label="Corridor"
            unit="cents"
            value={corridor}
            onRange={(range) => setBend({ ...bend, target_cents: range ?? CURL })}
          />
        )}
        {event.vibrato && (
          <>
            <Range
              key={`rate ${event.id} ${event.vibrato.rate_hz}`}
              label="Rate, if asked"
              unit="Hz"
              value={event.vibrato.rate_hz ?? null}
              onRange={(rate_hz) =>
                onChange((d) =>
                  change(d, event.beat, {
                    vibrato: { ...(event.vibrato as NonNullable<typeof event.vibrato>), rate_hz },
                  }),
                )
              }
            />
            <Range
              key={`extent ${event.id} ${event.vibrato.extent_cents}`}
              label="Extent, if asked"
              unit="cents"
              value={event.vibrato.extent_cents ?? null}
              onRange={(extent_cents) =>
                onChange((d) =>
                  change(d, event.beat, {
                    vibrato: { ...(event.vibrato as NonNullable<typeof event.vibrato>), extent_cents },
                  }),
                )
              }
            />
          </>
        )}
        <div className="flex flex-col">
          <Tick
            label="accent"
            checked={event.accent}
            onChange={(accent) => onChange((d) => change(d, event.beat, { accent }))}
          />
          <Tick
            label="let it ring"
            checked={event.let_ring}
            onChange={(let_ring) => onChange((d) => change(d, event.beat, { let_ring }))}
          />
        </div>
      </div>
      {bend && (
        <p className="mt-2 text-sm text-ink-soft">
          {bend.reference
            ? `Judged against the fretted note at ${placeOfId(drill, bend.reference)}, which sounds its target.`
            : "No fretted note of this drill sounds its target; it is judged against the tuning."}
        </p>
      )}
    </div>
  );
});
