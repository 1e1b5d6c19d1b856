import type { Hum, SetupFound, SetupString } from "~/api/client";
import { minus, plusMinus, signed } from "~/lib/words";
import { DeviationBar } from "./DeviationBar";

const USABLE: Record<SetupFound["usable"], string> = {
  yes: "Takes made now can be judged.",
  with_care: "Takes made now can be judged with care: see what is to be done.",
  no: "Takes made now cannot be judged. Put right what stands below and record the set-up again.",
};
const STEPS: Record<string, string> = {
  record_again: "Record again",
  tune: "Tune",
  saddle: "Saddle",
  rig: "Rig",
};
const CANNOT_TELL: Record<string, string> = {
  digital_silence: "the pauses hold no sound at all",
  lossy_coding: "the file’s coding changes the noise",
  no_pauses: "too few silent pauses",
  noise_not_heard: "the noise under the notes is not heard alone",
};

export interface SetupResultProps {
  found: SetupFound;
  hum: Hum | null;
  floorDbfs: number;
}

/** What a set-up take says: can takes be judged, what to do first, every string, the rig. */
export function SetupResult({ found, hum, floorDbfs }: SetupResultProps) {
  return (
    <section aria-label="Set-up" data-testid="set-up">
      <p className="text-lg font-semibold" data-usable={found.usable}>
        {USABLE[found.usable]}
      </p>
      {found.advice.length > 0 ? (
        <ol className="mt-2 border-t border-rule">
          {found.advice.map((advice, index) => (
            <li
              key={`${advice.code} ${advice.string}`}
              data-code={advice.code}
              className="grid grid-cols-[5rem_minmax(0,1fr)] sm:grid-cols-[7rem_minmax(0,1fr)] gap-3 border-b border-rule py-2"
            >
              <span className="text-ink-soft">
                {advice.step === found.advice[index - 1]?.step ? "" : STEPS[advice.step]}
              </span>
              <span className="max-w-prose">{advice.text}</span>
            </li>
          ))}
        </ol>
      ) : (
        <p className="mt-1 text-ink-soft">Nothing to do: in tune, intonated, and the rig is quiet.</p>
      )}
      <table className="mt-5 w-full border-collapse text-sm">
        <caption className="sr-only">Every string</caption>
        <thead>
          <tr className="text-left text-ink-soft">
            <th className="border-b border-ink py-1 font-normal">String</th>
            <th className="border-b border-ink py-1 pr-4 text-right font-normal">Open, cents off</th>
            <th className="hidden border-b border-ink sm:table-cell" />
            <th className="border-b border-ink py-1 pr-4 text-right font-normal">12th fret, cents</th>
            <th className="hidden border-b border-ink py-1 font-normal sm:table-cell">
              against its own open string
            </th>
          </tr>
        </thead>
        <tbody>
          {found.strings.map((string) => (
            <StringRow key={string.string} string={string} common={found.common_offset_cents ?? 0} />
          ))}
        </tbody>
      </table>
      <RigFacts found={found} hum={hum} floorDbfs={floorDbfs} />
    </section>
  );
}

function StringRow({ string, common }: { string: SetupString; common: number }) {
  const cell = "border-b border-rule py-1 align-middle";
  const open = string.offset_cents;
  const twelfth = string.twelfth_error_cents;
  const off = string.status === "other_pitch";
  return (
    <tr data-string={string.string}>
      <th scope="row" className={`${cell} w-24 text-left font-normal`}>
        <span className="figures font-semibold">{string.string}</span> {string.name}
      </th>
      <td className={`${cell} figures w-36 pr-4 text-right whitespace-nowrap`} data-testid="offset">
        {open === null ? "not heard" : `${signed(open)} ${plusMinus(string.u_offset)}`}
      </td>
      <td className={`${cell} hidden sm:table-cell`}>
        {off ? (
          <span>tuned to something else</span>
        ) : (
          open !== null && <DeviationBar cents={open - common} u={string.u_offset ?? 0} fullScale={20} />
        )}
      </td>
      <td className={`${cell} figures w-36 pr-4 text-right whitespace-nowrap`}>
        {twelfth === null ? "–" : `${signed(twelfth)} ${plusMinus(string.u_twelfth)}`}
      </td>
      <td className={`${cell} hidden sm:table-cell`}>
        {twelfth !== null && <DeviationBar cents={twelfth} u={string.u_twelfth ?? 0} fullScale={20} />}
      </td>
    </tr>
  );
}

function RigFacts({ found, hum, floorDbfs }: SetupResultProps) {
  const { rig } = found;
  const facts: [string, string][] = [
    ["Floor", `${minus(floorDbfs.toFixed(0))} dBFS`],
    ["Under a plain note", rig.signal_to_noise_db === null ? "–" : `${rig.signal_to_noise_db.toFixed(0)} dB`],
    ["Hum", hum ? humWords(hum) : "none"],
    ["Automatic gain", signWords(rig.automatic_gain)],
    ["Gate or suppression", signWords(rig.noise_gate)],
    ["Off zero", `${minus((100 * rig.dc_fraction).toFixed(2))} %`],
  ];
  return (
    <dl className="mt-4 flex flex-wrap gap-x-7 gap-y-2 text-sm" data-testid="rig">
      {facts.map(([label, value]) => (
        <div key={label}>
          <dt className="text-ink-soft">{label}</dt>
          <dd className="tabular-nums">{value}</dd>
        </div>
      ))}
    </dl>
  );
}

/** "50.0 Hz, −46 dBFS; harmonics 1, 2, 3". */
function humWords(hum: Hum): string {
  const numbers = hum.harmonics.map((h) => h.number).join(", ");
  return `${hum.hz.toFixed(1)} Hz, ${minus(hum.level_dbfs.toFixed(0))} dBFS${numbers && `; harmonics ${numbers}`}`;
}

function signWords(sign: SetupFound["rig"]["noise_gate"]): string {
  if (sign.found === null) return `cannot tell: ${CANNOT_TELL[sign.reason ?? ""] ?? "too little to go by"}`;
  return sign.found ? `yes, ${sign.value_db?.toFixed(0)} dB` : "no sign";
}
