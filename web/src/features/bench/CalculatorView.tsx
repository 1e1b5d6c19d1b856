import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import type { BenchAnswer, BenchCalculator } from "~/api/client";
import { calculateQuery } from "~/api/queries";
import { shortQuery, useQueryFields } from "~/lib/useQueryFields";
import { defaultsOf, FormField } from "~/ui/form/FormField";
import { cellText, fieldsFrom, rangesText, valueText } from "./bench.math";
import { FromGuitar } from "./FromGuitar";

/** Any calculator: its fields, its results as one types, its formula. The address holds what was typed. */
export function CalculatorView({ calculator }: { calculator: BenchCalculator }) {
  const defaults = useMemo(() => defaultsOf(calculator.inputs), [calculator]);
  const [fields, change] = useQueryFields(defaults);
  const answer = useQuery(calculateQuery(calculator.id, shortQuery(fields, defaults)));
  return (
    <section aria-label={calculator.title} data-testid={`bench-${calculator.id}`}>
      <h1 className="text-2xl font-bold">{calculator.title}</h1>
      <p className="mb-5 max-w-prose text-ink-soft">{calculator.purpose}</p>
      <div className="grid gap-x-12 gap-y-6 xl:grid-cols-[minmax(0,24rem)_minmax(0,1fr)]">
        <div className="flex flex-col gap-4">
          {calculator.inputs.some((i) => i.name === "scale_mm") && (
            <FromGuitar onPick={(guitar, string) => change(fieldsFrom(calculator, guitar, string))} />
          )}
          <div className="grid grid-cols-2 items-end gap-x-4 gap-y-3">
            {calculator.inputs.map((input) => (
              <FormField
                key={input.name}
                input={input}
                value={fields[input.name] ?? ""}
                onText={(text) => change({ [input.name]: text })}
              />
            ))}
          </div>
        </div>
        <div className="min-w-0">
          {answer.error ? (
            <p role="alert" className="border-l-4 border-ink bg-sheet px-4 py-3">
              {answer.error.message}
            </p>
          ) : (
            answer.data && <Results calculator={calculator} answer={answer.data} />
          )}
        </div>
      </div>
      <dl className="mt-7 grid max-w-3xl grid-cols-[6rem_minmax(0,1fr)] gap-x-4 gap-y-1 border-t border-rule pt-3 text-sm">
        <dt className="text-ink-soft">Formula</dt>
        <dd className="figures">{calculator.formula}</dd>
        <dt className="text-ink-soft">Source</dt>
        <dd>{calculator.source}</dd>
        <dt className="text-ink-soft">Valid</dt>
        <dd>
          {calculator.limits} {rangesText(calculator)}
        </dd>
      </dl>
    </section>
  );
}

function Results({ calculator, answer }: { calculator: BenchCalculator; answer: BenchAnswer }) {
  return (
    <>
      <table className="w-full border-collapse border-t border-ink">
        <caption className="sr-only">Results</caption>
        <tbody>
          {calculator.outputs.map((output) => (
            <tr key={output.name} className="border-b border-rule align-baseline">
              <th scope="row" className="py-1.5 text-left font-normal text-ink-soft">
                {output.label}
              </th>
              <td
                className="figures py-1.5 text-right text-lg leading-6 font-semibold whitespace-nowrap"
                data-output={output.name}
              >
                {valueText(answer.values[output.name], output.digits)}
              </td>
              <td className="w-28 py-1.5 pl-3 text-sm text-ink-soft">{output.unit}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {answer.warnings.map((warning) => (
        <p key={warning} role="alert" className="mt-3 border-l-4 border-ink bg-sheet px-3 py-2 text-sm">
          {warning}
        </p>
      ))}
      {answer.tables.map((table) => (
        <table key={table.title} className="mt-5 w-full border-collapse text-sm">
          <caption className="pb-1 text-left font-semibold">{table.title}</caption>
          <thead>
            <tr>
              {table.columns.map((column) => (
                <th
                  key={column}
                  scope="col"
                  className="border-b border-ink py-1 pr-4 text-right font-normal text-ink-soft"
                >
                  {column}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {table.rows.map((row) => (
              <tr key={row.join(" ")}>
                {row.map((cell, i) => (
                  <td key={table.columns[i]} className="figures border-b border-rule py-0.5 pr-4 text-right">
                    {cellText(cell)}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      ))}
    </>
  );
}
