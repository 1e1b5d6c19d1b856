import { useEffect, useRef, useState } from "react";
import type { DrillContent } from "~/api/client";
import { minus } from "~/lib/words";
import { Button } from "~/ui/Button";
import { Select } from "~/ui/Select";
import { ClickChoice } from "./ClickChoice";
import type { ClickSettings } from "./clickPlan.math";
import { inputFindings } from "./inputWords.math";
import { Meter } from "./Meter";
import { type InputChoice, inputs, SIMULATED } from "./soundCard";
import type { useRecorder } from "./useRecorder";

const DEFAULT = "default";

export interface InputCheckProps {
  recorder: ReturnType<typeof useRecorder>;
  /** Null where nothing in particular is played. */
  content: DrillContent | null;
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
      {content?.tempo && <ClickChoice bpm={content.tempo.bpm} click={click} onClick={onClick} />}
    </section>
  );
}
