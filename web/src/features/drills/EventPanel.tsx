import { memo } from "react";
import type { DrillContent, DrillEvent } from "~/api/client";
import { bendWords } from "~/lib/words";
import { Field } from "~/ui/form/Field";
import { Select } from "~/ui/Select";
import { beatsPerBar } from "~/ui/tab/systems.math";
import { type Articulation, type Cell, change, eventAt, noteAt, resize } from "./edit.math";
import { barAndBeat, withReference } from "./editing.math";

const ARTICULATIONS: { value: Articulation; label: string }[] = [
  { value: "pick", label: "picked" },
  { value: "hammer", label: "hammer-on" },
  { value: "pull", label: "pull-off" },
  { value: "tap", label: "tapped" },
  { value: "slide", label: "slid" },
  { value: "strum", label: "strummed" },
  { value: "repluck", label: "bend struck again" },
];
const KINDS = [
  { value: "none", label: "none" },
  { value: "bend", label: "bend" },
  { value: "prebend", label: "pre-bend, let down" },
  { value: "release", label: "release" },
  { value: "unison", label: "unison bend" },
  { value: "curl", label: "curl (corridor)" },
];
const RETURNS = [
  { value: "none", label: "none" },
  { value: "bottom", label: "from the note up" },
  { value: "top", label: "dips below, back up" },
  { value: "centre", label: "around the note" },
];
const CURL: [number, number] = [20, 80];

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
          onChange={(value) =>
            onChange((d) => change(d, event.beat, { articulation: value as Articulation }))
          }
          choices={ARTICULATIONS}
        />
        {length}
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

function placeOfId(drill: DrillContent, id: string): string {
  const beat = drill.events.find((event) => event.id === id)?.beat ?? 0;
  return barAndBeat(beat, beatsPerBar(drill));
}

function bendOf(kind: string, before: DrillEvent["bend"]): DrillEvent["bend"] {
  if (kind === "none") return null;
  const size = before && typeof before.target_cents === "number" ? before.target_cents : 200;
  return {
    kind: kind as NonNullable<DrillEvent["bend"]>["kind"],
    target_cents: kind === "curl" ? CURL : size,
    reference: null,
  };
}

function sizes(now: number): { value: string; label: string }[] {
  const known = [50, 100, 150, 200, 250, 300, 400];
  return [...new Set([...known, now])]
    .sort((a, b) => a - b)
    .map((cents) => ({ value: String(cents), label: bendWords(cents) }));
}

/** A length as one writes it: 1, 0.5, 1/3. */
export function lengthFrom(text: string): number | null {
  const [, top, bottom] = /^\s*(\d+(?:[.,]\d+)?)(?:\s*\/\s*(\d+))?\s*$/.exec(text) ?? [];
  if (top === undefined) return null;
  const beats = Number(top.replace(",", ".")) / (bottom === undefined ? 1 : Number(bottom));
  return Number.isFinite(beats) && beats >= 1 / 32 && beats <= 64 ? beats : null;
}

/** The other way round: thirds, fifths and their like as fractions. */
export function lengthText(beats: number): string {
  for (const bottom of [1, 2, 4, 8, 16]) {
    if (Math.abs(beats * bottom - Math.round(beats * bottom)) < 1e-4)
      return String(Math.round(beats * bottom) / bottom);
  }
  const bottom = [3, 5, 6, 7, 9, 12].find((b) => Math.abs(beats * b - Math.round(beats * b)) < 1e-3);
  return bottom ? `${Math.round(beats * bottom)}/${bottom}` : String(beats);
}

/** Two numbers from a text as "4–6", or null for nothing. */
export function rangeFrom(text: string): [number, number] | null {
  const found = text.match(/\d+(?:\.\d+)?/g)?.map(Number) ?? [];
  const [low, high = low] = found;
  return low === undefined || high === undefined || low > high ? null : [low, high];
}

function Range({
  label,
  unit,
  value,
  onRange,
}: {
  label: string;
  unit: string;
  value: readonly number[] | null;
  onRange: (range: [number, number] | null) => void;
}) {
  return (
    <Field
      label={label}
      unit={unit}
      defaultValue={value ? value.join("–") : ""}
      placeholder="any"
      onBlur={(event) => {
        const range = rangeFrom(event.target.value);
        if (String(range) !== String(value)) onRange(range);
      }}
    />
  );
}

function Tick({
  label,
  checked,
  onChange,
}: {
  label: string;
  checked: boolean;
  onChange: (on: boolean) => void;
}) {
  return (
    <label className="flex items-center gap-2 text-sm">
      <input
        type="checkbox"
        className="size-4 accent-ink"
        checked={checked}
        onChange={(event) => onChange(event.target.checked)}
      />
      {label}
    </label>
  );
}
