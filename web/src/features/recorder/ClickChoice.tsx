import { minus } from "~/lib/words";
import { Select } from "~/ui/Select";
import { Slider } from "~/ui/Slider";
import { type ClickSettings, ladder } from "./clickPlan.math";

const SUBDIVISIONS = [
  { value: "1", label: "on the beat" },
  { value: "2", label: "two a beat" },
  { value: "3", label: "three a beat" },
  { value: "4", label: "four a beat" },
];
const SILENCES = [
  { value: "1/0", label: "always" },
  { value: "1/1", label: "1 bar on, 1 off" },
  { value: "2/2", label: "2 bars on, 2 off" },
  { value: "3/1", label: "3 bars on, 1 off" },
  { value: "0/1", label: "only the count-in" },
];

export function ClickChoice({
  bpm,
  click,
  onClick,
}: {
  bpm: number;
  click: ClickSettings;
  onClick: (click: ClickSettings) => void;
}) {
  return (
    <details className="mt-3" data-testid="click">
      <summary className="cursor-pointer py-1">
        Click at {click.bpm ?? bpm} bpm{click.levelDb <= -40 ? ", silent" : ""}
      </summary>
      <div className="mt-1 grid grid-cols-1 items-end gap-x-6 gap-y-3 sm:grid-cols-3">
        <Select
          label="Tempo"
          value={String(click.bpm ?? bpm)}
          onChange={(value) => onClick({ ...click, bpm: Number(value) === bpm ? null : Number(value) })}
          choices={ladder(bpm, click.bpm).map((step) => ({
            value: String(step),
            label: step === bpm ? `${step} bpm, the drill’s` : `${step} bpm`,
          }))}
        />
        <Select
          label="It sounds"
          value={String(click.subdivision)}
          onChange={(value) => onClick({ ...click, subdivision: Number(value) as 1 })}
          choices={SUBDIVISIONS}
        />
        <Select
          label="And falls silent"
          value={`${click.barsOn}/${click.barsOff}`}
          onChange={(value) => {
            const [barsOn = 1, barsOff = 0] = value.split("/").map(Number);
            onClick({ ...click, barsOn, barsOff });
          }}
          choices={SILENCES}
        />
        <Slider
          label="How loud"
          value={click.levelDb}
          min={-40}
          max={0}
          step={1}
          said={click.levelDb <= -40 ? "silent: watch the beat" : `${minus(String(click.levelDb))} dB`}
          onChange={(levelDb) => onClick({ ...click, levelDb: levelDb <= -40 ? -100 : levelDb })}
        />
        <label className="flex min-h-9 items-center gap-2 text-sm">
          <input
            type="checkbox"
            className="size-4 accent-ink"
            checked={click.accent}
            onChange={(event) => onClick({ ...click, accent: event.target.checked })}
          />
          accent on the first of the bar
        </label>
      </div>
      <p className="mt-2 max-w-prose text-sm text-ink-soft" data-caution="hearing">
        With headphones and a click, keep the level moderate and take pauses.
      </p>
    </details>
  );
}
