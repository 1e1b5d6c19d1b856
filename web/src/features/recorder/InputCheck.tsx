import { useEffect, useRef, useState } from "react";
import type { DrillContent } from "~/api/client";
import { minus } from "~/lib/words";
import { Button } from "~/ui/Button";
import { Select } from "~/ui/Select";
import { Slider } from "~/ui/Slider";
import { type ClickSettings, ladder } from "./clickPlan.math";
import { inputFindings } from "./inputWords.math";
import { Meter } from "./Meter";
import { type InputChoice, inputs, SIMULATED } from "./soundCard";
import type { useRecorder } from "./useRecorder";

const DEFAULT = "default";

export interface InputCheckProps {
  recorder: ReturnType<typeof useRecorder>;
  content: DrillContent;
  click: ClickSettings;
  onClick: (click: ClickSettings) => void;
  /** Whether the stand-in for a sound card is offered too. */
  simulated?: boolean;
}

/** Which input, whether it is good, how late it is, and what the click does. */
export function InputCheck({ recorder, content, click, onClick, simulated = true }: InputCheckProps) {
  const { stage, seen, card, latency, trouble } = recorder;
  const [choices, setChoices] = useState<InputChoice[]>([]);
  const [device, setDevice] = useState(DEFAULT);
  const [channel, setChannel] = useState(0);
  const loudest = useRef(-120);
  if (seen && seen.peakDbfs > loudest.current) loudest.current = seen.peakDbfs;
  const isOpen = stage === "check" || stage === "calibrating";
  // Inputs have names only after permission was given; they come and go.
  useEffect(() => {
    const look = () => void inputs().then(setChoices);
    look();
    navigator.mediaDevices?.addEventListener("devicechange", look);
    return () => navigator.mediaDevices?.removeEventListener("devicechange", look);
  }, []);
  useEffect(() => {
    if (isOpen) void inputs().then(setChoices);
  }, [isOpen]);
  const open = (id: string, which: number) => {
    loudest.current = -120;
    void recorder.open(id === DEFAULT ? null : id, which, click.bpm);
  };
  return (
    <section aria-label="Input" className="mt-4 max-w-3xl" data-testid="input-check">
      <div className="flex flex-wrap items-end gap-4">
        <div className="w-96 max-w-full">
          <Select
            label="Input"
            value={device}
            onChange={(id) => {
              setDevice(id);
              if (stage !== "closed") open(id, channel);
            }}
            choices={[
              { value: DEFAULT, label: "The system’s input" },
              ...choices
                .filter((c) => c.id !== DEFAULT && (simulated || c.id !== SIMULATED))
                .map((c) => ({ value: c.id, label: c.label })),
            ]}
          />
        </div>
        {isOpen && (card?.channels ?? 1) > 1 && (
          <div className="w-32">
            <Select
              label="Channel"
              value={String(channel)}
              onChange={(value) => {
                setChannel(Number(value));
                open(device, Number(value));
              }}
              choices={Array.from({ length: Math.min(2, card?.channels ?? 1) }, (_, i) => ({
                value: String(i),
                label: String(i + 1),
              }))}
            />
          </div>
        )}
        {!isOpen && (
          <Button
            kind="strong"
            className="min-h-9"
            onClick={() => open(device, channel)}
            disabled={stage === "opening"}
          >
            {stage === "opening" ? "Opening …" : "Open the input"}
          </Button>
        )}
      </div>
      {trouble && (
        <p role="alert" className="mt-3 max-w-prose border-l-4 border-ink bg-sheet px-4 py-3">
          {trouble}
        </p>
      )}
      {isOpen && (
        <>
          <div className="mt-3">
            <Meter seen={seen} />
            <p className="mt-1 flex flex-wrap gap-x-5 text-sm text-ink-soft tabular-nums">
              <span>peak {minus((seen?.peakDbfs ?? -120).toFixed(0))} dBFS</span>
              <span>floor {seen?.floorDbfs == null ? "…" : `${minus(seen.floorDbfs.toFixed(0))} dBFS`}</span>
              <span>{seen?.hum ? `hum ${seen.hum.hz} Hz` : "no hum"}</span>
              <span>{card?.context.sampleRate} Hz</span>
            </p>
          </div>
          <ul className="mt-2" data-testid="findings">
            {inputFindings(seen, card?.processing ?? [], loudest.current).map((finding) => (
              <li
                key={finding.text}
                data-level={finding.level}
                className={finding.level === "stop" ? "font-semibold" : ""}
              >
                {finding.text}
              </li>
            ))}
          </ul>
          <div className="mt-3 flex flex-wrap items-center gap-x-4 gap-y-1" data-testid="latency">
            <span className="text-sm">
              {stage === "calibrating"
                ? "Listening to the probes; keep still …"
                : latency
                  ? `Round trip ${latency.ms.toFixed(1)} ms (± ${Math.max(0.1, latency.spreadMs).toFixed(1)})`
                  : "Round trip not measured: early and late cannot be told from the delay of this device."}
            </span>
            <Button onClick={() => void recorder.calibrate()} disabled={stage === "calibrating"}>
              {latency ? "Measure it again" : "Measure it"}
            </Button>
          </div>
        </>
      )}
      {content.tempo && <ClickChoice bpm={content.tempo.bpm} click={click} onClick={onClick} />}
    </section>
  );
}

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

function ClickChoice({
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
