import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import {
  api,
  data,
  type GuitarContent,
  type GuitarDetail,
  type GuitarKind,
  Problem,
  type StringPull,
} from "~/api/client";
import type { LengthUnit } from "~/lib/lengths.math";
import { GUITAR_KINDS } from "~/lib/words";
import { Button } from "~/ui/Button";
import { Field } from "~/ui/form/Field";
import { Select } from "~/ui/Select";
import { Failed } from "~/ui/states";
import { formOf, type GuitarForm, guitarOf, inUnit, shifted, unreadable } from "./guitar.math";
import { StringsTable } from "./StringsTable";

const KEPT_UNIT = "fortimetra.lengths";

function keptUnit(): LengthUnit {
  return localStorage.getItem(KEPT_UNIT) === "inch" ? "inch" : "mm";
}

/** Everything known of a guitar, to be corrected; nothing is kept before it is saved. */
export function GuitarFormView({ guitar }: { guitar: GuitarDetail }) {
  const [form, setForm] = useState<GuitarForm>(() => formOf(guitar.name, guitar.description, keptUnit()));
  const change = (part: Partial<GuitarForm>) => setForm((now) => ({ ...now, ...part }));
  const queries = useQueryClient();
  const pulls = usePulls(form, guitar.pulls);
  const save = useMutation({
    mutationFn: async () => {
      const field = unreadable(form);
      // It would be taken for a field that was left empty.
      if (field)
        throw new Problem(0, "no_number", `${field}: this is no number. Correct it or leave it empty.`);
      return data(
        api.PUT("/api/v1/guitars/{guitar_id}", {
          params: { path: { guitar_id: guitar.id } },
          body: { name: form.name, description: guitarOf(form) },
        }),
      );
    },
    onSuccess: (kept) => {
      setForm(formOf(kept.name, kept.description, form.unit));
      return queries.invalidateQueries({ queryKey: ["guitars"] });
    },
  });
  const typical = useMutation({
    mutationFn: (kind: GuitarKind) =>
      data(api.GET("/api/v1/guitars/presets/{kind}", { params: { path: { kind } } })),
    onSuccess: (preset) => setForm(formOf(form.name, { ...preset, notes: form.notes }, form.unit)),
  });
  const setUnit = (unit: LengthUnit) => {
    localStorage.setItem(KEPT_UNIT, unit);
    setForm(inUnit(form, unit));
  };
  const warnings = (pulls ?? []).flatMap((p) => (p.warning ? [`String ${p.string}: ${p.warning}`] : []));
  const length = form.unit === "mm" ? "mm" : "inch";
  return (
    <form
      aria-label="Description"
      className="flex flex-col gap-5"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
    >
      <div className="flex flex-wrap items-end gap-4">
        <Field
          label="Name"
          words
          className="w-72"
          value={form.name}
          maxLength={120}
          onText={(name) => change({ name })}
        />
        <div className="w-52">
          <Select
            label="Kind"
            value={form.kind}
            onChange={(kind) => change({ kind: kind as GuitarKind })}
            choices={GUITAR_KINDS}
          />
        </div>
        <Button className="min-h-9" onClick={() => typical.mutate(form.kind)}>
          Fill in a typical one
        </Button>
        <fieldset className="ml-auto flex gap-1">
          <legend className="sr-only">Lengths in</legend>
          {(["mm", "inch"] as const).map((unit) => (
            <Button key={unit} aria-pressed={form.unit === unit} onClick={() => setUnit(unit)}>
              {unit}
            </Button>
          ))}
        </fieldset>
      </div>
      <StringsTable form={form} pulls={pulls} onChange={(strings) => change({ strings })} />
      <div className="flex flex-wrap items-center gap-2 text-sm">
        <span className="mr-1 text-ink-soft">Whole set</span>
        <Button onClick={() => setForm(shifted(form, -1))}>a fret lower</Button>
        <Button onClick={() => setForm(shifted(form, 1))}>a fret higher</Button>
        <Button
          disabled={form.strings.length >= 8}
          onClick={() =>
            change({
              strings: [
                ...form.strings,
                { pitch: "B1", gauge: form.unit === "mm" ? "1.42" : "56", wound: true, unitWeight: "" },
              ],
            })
          }
        >
          Add a low string
        </Button>
        <Button
          disabled={form.strings.length <= 4}
          onClick={() => change({ strings: form.strings.slice(0, -1) })}
        >
          Take the lowest away
        </Button>
      </div>
      {warnings.map((warning) => (
        <p key={warning} role="alert" className="border-l-4 border-ink bg-sheet px-3 py-2 text-sm">
          {warning}
        </p>
      ))}
      <div className="grid gap-4 sm:grid-cols-4">
        <Field label="Scale" unit={length} value={form.scale} onText={(scale) => change({ scale })} />
        <Field label="Capo at fret" value={form.capo} onText={(capo) => change({ capo })} />
        <Field label="A4" unit="Hz" value={form.a4} onText={(a4) => change({ a4 })} />
        <Field label="Frets" value={form.frets} onText={(frets) => change({ frets })} />
        <Field
          label="Action, string 1 over fret 12"
          unit={length}
          value={form.actionTreble}
          onText={(actionTreble) => change({ actionTreble })}
        />
        <Field
          label="Action, lowest string"
          unit={length}
          value={form.actionBass}
          onText={(actionBass) => change({ actionBass })}
        />
        <Field
          label="Fretboard radius"
          unit={length}
          placeholder="flat"
          value={form.radius}
          onText={(radius) => change({ radius })}
        />
      </div>
      <label className="flex flex-col gap-1 text-sm text-ink-soft">
        Notes
        <textarea
          className="min-h-16 rounded-md border border-rule-strong bg-sheet px-3 py-2 text-base text-ink"
          maxLength={2000}
          value={form.notes}
          onChange={(event) => change({ notes: event.target.value })}
        />
      </label>
      {(save.error ?? typical.error) && <Failed error={save.error ?? typical.error} />}
      <div className="flex items-center gap-3">
        <Button kind="strong" type="submit" disabled={save.isPending}>
          Save
        </Button>
        <span aria-live="polite" className="text-sm text-ink-soft">
          {save.isSuccess ? "Saved. Takes from now on are played on this guitar as described." : ""}
        </span>
      </div>
    </form>
  );
}

/** Pulls of what is typed, as soon as it is a guitar. */
function usePulls(form: GuitarForm, saved: StringPull[]): StringPull[] | undefined {
  const typed = useDeferredValue(JSON.stringify(guitarOf(form)));
  const live = useQuery({
    queryKey: ["guitars", "pulls", typed],
    queryFn: () => data(api.POST("/api/v1/guitars/pulls", { body: JSON.parse(typed) as GuitarContent })),
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
  });
  return live.data ?? (live.isPending ? saved : undefined);
}
