import { Play, Square } from "lucide-react";
import { memo, useState } from "react";
import type { DrillContent } from "~/api/client";
import type { Shown } from "~/api/drills";
import { CLEAN, type DrillSound } from "~/lib/useDrillSound";
import { Button } from "~/ui/Button";
import { Field } from "~/ui/form/Field";
import { Tick } from "~/ui/form/Tick";
import { Select } from "~/ui/Select";
import { Slider } from "~/ui/Slider";
import { beatsPerBar } from "~/ui/tab/systems.math";
import { canShow, centsSaid, dbSaid, isClean, msSaid, ringSaid, unevenSaid } from "./listen.math";

const NONE = "none";

export interface ListenProps {
  content: DrillContent;
  sound: DrillSound;
  fromBeat?: number;
}

/** A drill heard from the simulated student, clean or with the faults on the sliders, at any tempo. */
export const Listen = memo(function Listen({ content, sound, fromBeat = 0 }: ListenProps) {
  const [shown, setShown] = useState<Shown>(CLEAN);
  const [bpm, setBpm] = useState("");
  const [click, setClick] = useState(true);
  const [loop, setLoop] = useState(false);
  const room = canShow(content);
  const set = (part: Partial<Shown>) => setShown((before) => ({ ...before, ...part }));
  const asked = bpm === "" ? null : Number(bpm);
  const tempoFits = asked === null || (asked >= 20 && asked <= 400);
  const play = (faults: Shown) =>
    sound.play({ content, shown: faults, bpm: asked, click, perBar: beatsPerBar(content), fromBeat, loop });
  const busy = sound.state !== "still";
  return (
    <section aria-label="Listen" className="print:hidden" data-testid="listen" data-state={sound.state}>
      <div className="flex flex-wrap items-end gap-x-4 gap-y-2">
        <Button
          kind="strong"
          className="min-h-9 min-w-28"
          disabled={!tempoFits}
          onClick={() => (busy ? sound.stop() : play(CLEAN))}
        >
          {busy ? <Square size={14} aria-hidden /> : <Play size={14} aria-hidden />}
          {sound.state === "preparing" ? "Tuning up" : busy ? "Stop" : "Listen"}
        </Button>
        {content.tempo && (
          <Field
            label="Tempo"
            unit="bpm"
            className="w-32"
            inputMode="numeric"
            placeholder={String(content.tempo.bpm)}
            value={bpm}
            aria-invalid={!tempoFits}
            onText={setBpm}
          />
        )}
        <Tick className="min-h-9" label="click" checked={click} onChange={setClick} />
        <Tick className="min-h-9" label="over and over" checked={loop} onChange={setLoop} />
        <p className="basis-full text-sm text-ink-soft" aria-live="polite">
          {tempoFits ? sound.error : "A tempo lies from 20 to 400 bpm."}
        </p>
      </div>
      <details className="mt-1">
        <summary className="cursor-pointer py-1">Hear what a fault sounds like</summary>
        <div className="mt-2 grid max-w-4xl grid-cols-1 gap-x-8 gap-y-2 sm:grid-cols-2 lg:grid-cols-3">
          <Slider
            label={room.bends ? "Bends" : "Pitch"}
            value={shown.cents}
            min={-60}
            max={60}
            step={1}
            said={centsSaid(shown.cents)}
            onChange={(cents) => set({ cents })}
          />
          <Slider
            label="Time"
            value={shown.late_ms}
            min={-100}
            max={100}
            step={5}
            said={msSaid(shown.late_ms)}
            onChange={(late_ms) => set({ late_ms })}
          />
          <Slider
            label="Vibrato"
            value={shown.vibrato_cv}
            min={0}
            max={0.6}
            step={0.05}
            said={room.vibrato ? unevenSaid(shown.vibrato_cv) : "none in this drill"}
            disabled={!room.vibrato}
            onChange={(vibrato_cv) => set({ vibrato_cv })}
          />
          <Slider
            label="Slurred notes"
            value={shown.slur_db}
            min={-18}
            max={3}
            step={1}
            said={room.slurs ? dbSaid(shown.slur_db) : "none in this drill"}
            disabled={!room.slurs}
            onChange={(slur_db) => set({ slur_db })}
          />
          <Select
            label="A string that rings along"
            value={shown.ring_string === null ? NONE : String(shown.ring_string)}
            onChange={(value) => set({ ring_string: value === NONE ? null : Number(value) })}
            choices={[
              { value: NONE, label: "none" },
              ...content.tuning.map((pitch, i) => ({
                value: String(i + 1),
                label: `string ${i + 1} (${pitch})`,
              })),
            ]}
          />
          <Slider
            label="How loud"
            value={shown.ring_db}
            min={-40}
            max={-6}
            step={1}
            said={ringSaid(shown.ring_db)}
            disabled={shown.ring_string === null}
            onChange={(ring_db) => set({ ring_db })}
          />
        </div>
        <div className="mt-3 flex flex-wrap items-center gap-2">
          <Button disabled={isClean(shown) || !tempoFits} onClick={() => play(shown)}>
            Listen with the fault
          </Button>
          <Button disabled={!tempoFits} onClick={() => play(CLEAN)}>
            Listen clean
          </Button>
          <Button kind="quiet" disabled={isClean(shown)} onClick={() => setShown(CLEAN)}>
            All at rest
          </Button>
        </div>
      </details>
    </section>
  );
});
