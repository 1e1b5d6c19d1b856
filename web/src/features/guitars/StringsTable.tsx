import type { StringPull } from "~/api/client";
import { Field } from "~/ui/form/Field";
import type { GuitarForm, StringForm } from "./guitar.math";

export interface StringsTableProps {
  form: GuitarForm;
  pulls: StringPull[] | undefined;
  onChange: (strings: StringForm[]) => void;
}

/** One row a string: pitch, gauge, make, and how hard it pulls. */
export function StringsTable({ form, pulls, onChange }: StringsTableProps) {
  const change = (index: number, part: Partial<StringForm>) =>
    onChange(form.strings.map((string, i) => (i === index ? { ...string, ...part } : string)));
  const head = "border-b border-ink py-1 pr-3 text-left font-normal text-ink-soft";
  return (
    <div className="overflow-x-auto">
      <table className="w-full border-collapse text-sm" data-testid="strings">
        <thead>
          <tr>
            <th className={head}>String</th>
            <th className={head}>Tuned to</th>
            <th className={head}>Gauge, {form.unit === "mm" ? "mm" : "thousandths"}</th>
            <th className={head}>Wound</th>
            <th className={head}>Unit weight, g/m</th>
            <th className={head}>Pull</th>
          </tr>
        </thead>
        <tbody>
          {form.strings.map((string, index) => {
            const pull = pulls?.[index];
            const name = `string ${index + 1}`;
            const cell = "border-b border-rule py-1 pr-3";
            return (
              // biome-ignore lint/suspicious/noArrayIndexKey: a string's number is its identity
              <tr key={index}>
                <th scope="row" className={`${cell} figures text-left`}>
                  {index + 1}
                </th>
                <td className={cell}>
                  <Field
                    hideLabel
                    label={`Pitch of ${name}`}
                    className="w-20"
                    value={string.pitch}
                    onText={(pitch) => change(index, { pitch })}
                  />
                </td>
                <td className={cell}>
                  <Field
                    hideLabel
                    label={`Gauge of ${name}`}
                    className="w-20"
                    inputMode="decimal"
                    value={string.gauge}
                    onText={(gauge) => change(index, { gauge })}
                  />
                </td>
                <td className={cell}>
                  <input
                    type="checkbox"
                    className="size-4 accent-ink"
                    aria-label={`${name} is wound`}
                    checked={string.wound}
                    onChange={(event) => change(index, { wound: event.target.checked })}
                  />
                </td>
                <td className={cell}>
                  <Field
                    hideLabel
                    label={`Unit weight of ${name}`}
                    className="w-32"
                    inputMode="decimal"
                    placeholder="from gauge"
                    value={string.unitWeight}
                    onText={(unitWeight) => change(index, { unitWeight })}
                  />
                </td>
                <td className={`${cell} figures whitespace-nowrap`}>
                  {pull ? `${pull.tension_n.toFixed(0)} N` : "–"}
                  {pull?.estimated && <span className="text-ink-soft"> est.</span>}
                  {pull && pull.share > 0.8 && (
                    <strong> {(100 * pull.share).toFixed(0)} % of breaking</strong>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}
