import { useState } from "react";
import { useQueryFields } from "~/lib/useQueryFields";
import { useSound } from "~/lib/useSound";
import { Button, buttonClass } from "~/ui/Button";
import { Field } from "~/ui/form/Field";
import { Select } from "~/ui/Select";

const DEFAULTS = {
  hz: "440",
  seconds: "3",
  sound: "plucked",
  bpm: "60",
  beats: "4",
  bars: "8",
  count: "1",
  per: "1",
  accent: "true",
};
const PER_BEAT = ["1", "2", "3", "4", "6"].map((n) => ({ value: n, label: n }));

/** Reference tones and clicks: heard here, or taken away as files. */
export function Tones() {
  const [fields, change] = useQueryFields(DEFAULTS);
  const get = (name: keyof typeof DEFAULTS) => fields[name] ?? "";
  const tone = new URLSearchParams({
    hz: get("hz"),
    seconds: get("seconds"),
    sound: get("sound"),
  });
  const click = new URLSearchParams({
    bpm: get("bpm"),
    beats_per_bar: get("beats"),
    bars: get("bars"),
    count_in_bars: get("count"),
    per_beat: get("per"),
    accent: get("accent"),
  });
  return (
    <section aria-label="Tones and click" data-testid="sounds">
      <h1 className="mb-5 text-2xl font-bold">Tones and click</h1>
      <div className="grid gap-10 xl:grid-cols-2">
        <div className="flex flex-col gap-4">
          <h2 className="border-b border-ink pb-1 text-lg font-semibold">Reference tone</h2>
          <div className="grid grid-cols-3 gap-4">
            <Field label="Pitch" unit="Hz" value={get("hz")} onText={(t) => change({ hz: t })} />
            <Field label="Length" unit="s" value={get("seconds")} onText={(t) => change({ seconds: t })} />
            <Select
              label="Sound"
              value={get("sound")}
              onChange={(v) => change({ sound: v })}
              choices={[
                { value: "plucked", label: "plucked" },
                { value: "sine", label: "steady" },
              ]}
            />
          </div>
          <Sound path={`/api/v1/bench/tone?${tone}`} name="tone" />
        </div>
        <div className="flex flex-col gap-4">
          <h2 className="border-b border-ink pb-1 text-lg font-semibold">Click to go</h2>
          <div className="grid grid-cols-3 gap-4">
            <Field label="Tempo" unit="bpm" value={get("bpm")} onText={(t) => change({ bpm: t })} />
            <Field label="Beats in a bar" value={get("beats")} onText={(t) => change({ beats: t })} />
            <Field label="Bars" value={get("bars")} onText={(t) => change({ bars: t })} />
            <Field label="Bars of count-in" value={get("count")} onText={(t) => change({ count: t })} />
            <Select
              label="Notes per click"
              value={get("per")}
              onChange={(v) => change({ per: v })}
              choices={PER_BEAT}
            />
            <label className="flex items-center gap-2 self-end pb-2 text-sm">
              <input
                type="checkbox"
                className="size-4 accent-ink"
                checked={get("accent") === "true"}
                onChange={(event) => change({ accent: String(event.target.checked) })}
              />
              accent on one
            </label>
          </div>
          <Sound path={`/api/v1/bench/click?${click}`} name="click" />
        </div>
      </div>
      <p className="mt-8 max-w-prose text-sm text-ink-soft">
        With headphones, keep the level moderate and take pauses. Clicks start on the sample nearest to their
        time (48 kHz).
      </p>
    </section>
  );
}

function Sound({ path, name }: { path: string; name: string }) {
  const sound = useSound();
  const [problem, setProblem] = useState("");
  const play = async () => {
    if (sound.playing === path) return sound.stop();
    const answer = await fetch(path);
    setProblem(answer.ok ? "" : ((await answer.json()) as { detail: string }).detail);
    if (answer.ok) sound.play(path);
  };
  return (
    <div>
      <div className="flex gap-2">
        <Button kind="strong" aria-pressed={sound.playing === path} onClick={() => void play()}>
          {sound.playing === path ? "Stop" : `Play ${name}`}
        </Button>
        {(["wav", "flac"] as const).map((kind) => (
          <a key={kind} className={buttonClass()} href={`${path}&kind=${kind}`} download={`${name}.${kind}`}>
            {kind.toUpperCase()}
          </a>
        ))}
      </div>
      {(problem || sound.failed) && (
        <p role="alert" className="mt-2 text-sm">
          {problem || "This browser cannot play the sound. Check its sound output."}
        </p>
      )}
    </div>
  );
}
