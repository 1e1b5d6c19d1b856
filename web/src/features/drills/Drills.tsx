import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { csrfToken, type DrillDetail, type DrillRead, type Me, problemFrom } from "~/api/client";
import { drillsQuery } from "~/api/queries";
import { familyWords } from "~/lib/words";
import { Button, buttonClass } from "~/ui/Button";
import { Field } from "~/ui/form/Field";
import { Select } from "~/ui/Select";
import { Empty, Failed, Loading } from "~/ui/states";
import { UploadButton } from "~/ui/upload/UploadButton";
import { type DrillSearch, foundDrills } from "./drill.math";

const ANY = "any";

async function importDrill(file: File): Promise<DrillDetail> {
  const form = new FormData();
  form.set("file", file);
  const answer = await fetch("/api/v1/drills", {
    method: "POST",
    body: form,
    headers: { "X-CSRFToken": csrfToken() },
  });
  const text = await answer.text();
  if (!answer.ok) throw problemFrom(answer.status, text);
  return JSON.parse(text) as DrillDetail;
}

export function Drills({ me }: { me: Me }) {
  const drills = useQuery(drillsQuery);
  const input = useRef<HTMLInputElement>(null);
  const queries = useQueryClient();
  const navigate = useNavigate();
  const bring = useMutation({
    mutationFn: importDrill,
    onSuccess: (drill) => {
      void queries.invalidateQueries({ queryKey: drillsQuery.queryKey, exact: true });
      navigate(`/drills/${drill.id}`);
    },
  });
  const [search, setSearch] = useState<DrillSearch>({ text: "", string: "", archived: false });
  const found = foundDrills(drills.data ?? [], search);
  const families = grouped(found);
  return (
    <>
      <div className="mb-4 flex flex-wrap items-end gap-3">
        <h1 className="mr-auto text-2xl font-bold">Drills</h1>
        <Link className={buttonClass("plain", "min-h-9")} to="/drills/new">
          Make a drill
        </Link>
        <Button className="min-h-9" onClick={() => input.current?.click()}>
          Import a drill file
        </Button>
        <input
          ref={input}
          type="file"
          accept=".json,application/json"
          className="sr-only"
          tabIndex={-1}
          aria-label="Drill file"
          onChange={(event) => {
            const file = event.target.files?.[0];
            event.target.value = "";
            if (file) bring.mutate(file);
          }}
        />
        <UploadButton me={me} />
      </div>
      {bring.error && <Failed error={bring.error} />}
      {drills.isPending && <Loading what="drills" />}
      {drills.error && <Failed error={drills.error} onRetry={() => drills.refetch()} />}
      {drills.data?.length === 0 && <Empty title="No drills yet">Make a drill, or import a file.</Empty>}
      {(drills.data?.length ?? 0) > 0 && <SearchLine search={search} onSearch={setSearch} />}
      {(drills.data?.length ?? 0) > 0 && found.length === 0 && (
        <p className="py-4">{search.archived ? "Nothing is put away." : "No drill here fits these words."}</p>
      )}
      {[...families].map(([family, members]) => (
        <section key={family} className="mb-6">
          <h2 className="border-b border-ink pb-1 text-lg font-semibold">{familyWords(family)}</h2>
          <ul>
            {members.map((drill) => (
              <DrillRow key={drill.id} drill={drill} />
            ))}
          </ul>
        </section>
      ))}
    </>
  );
}

function SearchLine({ search, onSearch }: { search: DrillSearch; onSearch: (search: DrillSearch) => void }) {
  return (
    <search className="mb-5 flex flex-wrap items-end gap-4">
      <Field
        label="Find in title and family"
        words
        type="search"
        className="w-72"
        value={search.text}
        onText={(text) => onSearch({ ...search, text })}
      />
      <div className="w-36">
        <Select
          label="String"
          value={search.string || ANY}
          onChange={(string) => onSearch({ ...search, string: string === ANY ? "" : string })}
          choices={[ANY, "1", "2", "3", "4", "5", "6"].map((value) => ({ value, label: value }))}
        />
      </div>
      <label className="flex min-h-9 items-center gap-2 text-sm">
        <input
          type="checkbox"
          className="size-4 accent-ink"
          checked={search.archived}
          onChange={(event) => onSearch({ ...search, archived: event.target.checked })}
        />
        what is put away
      </label>
    </search>
  );
}

function grouped(drills: DrillRead[]): Map<string, DrillRead[]> {
  const found = new Map<string, DrillRead[]>();
  for (const drill of drills) found.set(drill.family, [...(found.get(drill.family) ?? []), drill]);
  return found;
}

function DrillRow({ drill }: { drill: DrillRead }) {
  return (
    <li className="relative flex flex-wrap items-baseline gap-x-6 border-b border-rule py-2 hover:bg-sheet">
      <Link to={`/drills/${drill.id}`} className="mr-auto font-semibold after:absolute after:inset-0">
        {drill.title}
      </Link>
      <span className="figures text-sm text-ink-soft">
        {drill.bpm === null ? "free time" : `${drill.bpm} bpm`},{" "}
        {drill.repeats === 1 ? "once" : `${drill.repeats} repeats`}, {drill.asked} notes, {drill.takes}{" "}
        {drill.takes === 1 ? "take" : "takes"}
      </span>
    </li>
  );
}
