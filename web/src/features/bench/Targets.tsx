import { useQuery } from "@tanstack/react-query";
import type { TargetRead } from "~/api/client";
import { allGuitarsQuery, targetQuery, targetsQuery } from "~/api/queries";
import { useQueryFields } from "~/lib/useQueryFields";
import { useSound } from "~/lib/useSound";
import { signed } from "~/lib/words";
import { Button } from "~/ui/Button";
import { Field } from "~/ui/form/Field";
import { Select } from "~/ui/Select";
import { TargetTable } from "./TargetTable";

const BENDS = [
  { value: "50", label: "quarter tone, 50 cents" },
  { value: "100", label: "half, one fret" },
  { value: "150", label: "three quarter tones, 150 cents" },
  { value: "200", label: "full, two frets" },
  { value: "300", label: "three frets" },
];
const NONE = "standard";
const DEFAULTS = { string: "3", fret: "7", bend: "200", guitar: NONE, tuning: "E4 B3 G3 D3 A2 E2" };

/** Where a bend has to arrive, and everything that helps to hear that it did. */
export function Targets() {
  const [fields, change] = useQueryFields(DEFAULTS);
  const guitars = useQuery(allGuitarsQuery);
  const { string = "", fret = "", bend = "", guitar = NONE, tuning = "" } = fields;
  const asked = {
    string: Number(string),
    fret: Number(fret),
    bend_cents: Number(bend),
    guitar_id: guitar === NONE ? undefined : Number(guitar),
    tuning: guitar === NONE && tuning !== DEFAULTS.tuning ? tuning : undefined,
  };
  const found = useQuery(targetQuery(asked));
  const all = useQuery(targetsQuery(asked));
  return (
    <section aria-label="Bend targets" data-testid="targets">
      <h1 className="text-2xl font-bold">Bend targets</h1>
      <p className="mb-5 max-w-prose text-ink-soft">
        What a bend has to sound, where else on the guitar that pitch lies, and which open string checks it.
      </p>
      <div className="mb-6 grid max-w-4xl grid-cols-2 gap-4 sm:grid-cols-[7rem_7rem_minmax(0,1fr)_minmax(0,1fr)]">
        <Field label="String" inputMode="numeric" value={string} onText={(t) => change({ string: t })} />
        <Field label="Fret" inputMode="numeric" value={fret} onText={(t) => change({ fret: t })} />
        <Select label="Bend" value={bend} onChange={(v) => change({ bend: v })} choices={BENDS} />
        <Select
          label="Guitar"
          value={guitar}
          onChange={(v) => change({ guitar: v })}
          choices={[
            { value: NONE, label: "any, tuned as below" },
            ...(guitars.data ?? []).map((g) => ({ value: String(g.id), label: `${g.name}, ${g.student}` })),
          ]}
        />
      </div>
      {guitar === NONE && (
        <Field
          label="Tuning, string 1 first"
          className="-mt-2 mb-6 max-w-sm"
          value={tuning}
          onText={(t) => change({ tuning: t })}
        />
      )}
      {found.error && (
        <p role="alert" className="border-l-4 border-ink bg-sheet px-4 py-3">
          {found.error.message}
        </p>
      )}
      {found.data && !found.error && <Found target={found.data} />}
      {all.data && !all.error && <TargetTable targets={all.data} fret={Number(fret)} />}
    </section>
  );
}

function Found({ target }: { target: TargetRead }) {
  const sound = useSound();
  const tone = (hz: number) => `/api/v1/bench/tone?hz=${hz.toFixed(3)}&seconds=3`;
  const listen = (hz: number, label: string) => (
    <Button
      aria-pressed={sound.playing === tone(hz)}
      onClick={() => (sound.playing === tone(hz) ? sound.stop() : sound.play(tone(hz)))}
    >
      {label}
    </Button>
  );
  const off = Math.round(target.cents_off) === 0 ? "" : ` ${signed(target.cents_off, 0)} cents`;
  const octave = (n: number) =>
    n === 0
      ? "the same pitch"
      : `${Math.abs(n)} octave${Math.abs(n) > 1 ? "s" : ""} ${n > 0 ? "above" : "below"}`;
  return (
    <>
      <div className="flex flex-wrap items-end gap-x-10 gap-y-3 border-y border-ink py-4">
        <Pitch
          label={`String ${target.string}, fret ${target.fret}`}
          note={target.fretted_note}
          hz={target.fretted_hz}
        />
        <span aria-hidden="true" className="pb-1 text-2xl">
          ↑
        </span>
        <Pitch label="has to sound" note={target.note + off} hz={target.hz} strong />
        <div className="ml-auto flex gap-2">
          {listen(target.fretted_hz, "Hear the fretted note")}
          {listen(target.hz, "Hear the target")}
        </div>
      </div>
      {sound.failed && <p role="alert">This browser cannot play the tone. Check its sound output.</p>}
      <div className="mt-5 grid gap-8 sm:grid-cols-3">
        <div>
          <h2 className="font-semibold">The same pitch, fretted</h2>
          <ul className="mt-1">
            {target.same_string_fret !== null && (
              <li>
                string {target.string}, fret {target.same_string_fret}{" "}
                <span className="text-ink-soft">(play this first)</span>
              </li>
            )}
            {target.partners.map((p) => (
              <li key={p.string}>
                {p.fret === 0 ? `string ${p.string}, open` : `string ${p.string}, fret ${p.fret}`}
              </li>
            ))}
            {target.same_string_fret === null && target.partners.length === 0 && (
              <li className="text-ink-soft">none: it lies between the frets</li>
            )}
          </ul>
        </div>
        <div>
          <h2 className="font-semibold">Open strings that check it</h2>
          <ul className="mt-1">
            {target.open_checks.map((p) => (
              <li key={p.string}>
                string {p.string}: {octave(p.octaves)}
              </li>
            ))}
            {target.open_checks.length === 0 && (
              <li className="text-ink-soft">none sounds it or its octave</li>
            )}
          </ul>
        </div>
        <div>
          <h2 className="font-semibold">Against a string at that pitch it beats</h2>
          <ul className="figures mt-1">
            {target.beats.map((b) => (
              <li key={b.cents}>
                {b.beats_hz.toFixed(2)} /s <span className="text-ink-soft">at {b.cents} cents off</span>
              </li>
            ))}
          </ul>
        </div>
      </div>
    </>
  );
}

function Pitch({ label, note, hz, strong }: { label: string; note: string; hz: number; strong?: boolean }) {
  return (
    <div>
      <p className="text-sm text-ink-soft">{label}</p>
      <p className={strong ? "text-3xl font-bold" : "text-2xl"} data-testid={strong ? "target" : undefined}>
        {note} <span className="figures text-base font-normal">{hz.toFixed(2)} Hz</span>
      </p>
    </div>
  );
}
