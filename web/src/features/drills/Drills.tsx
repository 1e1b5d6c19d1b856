import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { api, type DrillDetail, type DrillRead, data, type Me } from "~/api/client";
import { type ScoreRead, sendFile } from "~/api/drills";
import { drillsQuery, generatorsQuery } from "~/api/queries";
import { familyWords } from "~/lib/words";
import { Button, buttonClass } from "~/ui/Button";
import { Field } from "~/ui/form/Field";
import { Select } from "~/ui/Select";
import type { Choice } from "~/ui/selecting";
import { Empty, Failed, Loading } from "~/ui/states";
import { DrillShape } from "~/ui/tab/DrillShape";
import { UploadButton } from "~/ui/upload/UploadButton";
import {
  ANY_DRILL,
  type DrillSearch,
  foundDrills,
  isScore,
  LEVELS,
  levelWords,
  PLAIN_NEED,
  searches,
  tagsOf,
} from "./drill.math";
import { byGroup, formsFor, groupWords, like, minutesWords, NECK } from "./library.math";

const ANY = "any";

export function Drills({ me }: { me: Me }) {
  const drills = useQuery(drillsQuery);
  const input = useRef<HTMLInputElement>(null);
  const queries = useQueryClient();
  const navigate = useNavigate();
  const bring = useMutation({
    mutationFn: async (file: File) =>
      isScore(file.name)
        ? `/drills/import/${(await sendFile<ScoreRead>("/api/v1/drills/imports", file)).id}`
        : `/drills/${(await sendFile<DrillDetail>("/api/v1/drills", file)).id}`,
    onSuccess: (address) => {
      void queries.invalidateQueries({ queryKey: drillsQuery.queryKey, exact: true });
      navigate(address);
    },
  });
  const blank = useMutation({
    mutationFn: () => data(api.POST("/api/v1/drills/blank")),
    onSuccess: (drill) => {
      void queries.invalidateQueries({ queryKey: drillsQuery.queryKey, exact: true });
      navigate(`/drills/${drill.id}/write`);
    },
  });
  const [search, setSearch] = useState<DrillSearch>(ANY_DRILL);
  const found = foundDrills(drills.data ?? [], search);
  const special = useSpecial(drills.data ?? []);
  return (
    <>
      <div className="mb-4 flex flex-wrap items-end gap-3">
        <h1 className="mr-auto text-2xl font-bold">Drills</h1>
        <Link className={buttonClass()} to="/drills/new">
          Make a drill
        </Link>
        <Button onClick={() => blank.mutate()} disabled={blank.isPending}>
          Empty sheet
        </Button>
        <Button onClick={() => input.current?.click()} disabled={bring.isPending}>
          Import a file
        </Button>
        <input
          ref={input}
          type="file"
          accept=".json,.musicxml,.mxl,.xml,.mid,.midi"
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
      {(bring.error ?? blank.error) && <Failed error={(bring.error ?? blank.error) as Error} />}
      {drills.isPending && <Loading what="drills" />}
      {drills.error && <Failed error={drills.error} onRetry={() => drills.refetch()} />}
      {drills.data?.length === 0 && <Empty title="No drills yet">Make a drill, or import a file.</Empty>}
      {(drills.data?.length ?? 0) > 0 && !special && (
        <SearchLine drills={drills.data ?? []} search={search} onSearch={setSearch} />
      )}
      {(drills.data?.length ?? 0) > 0 && found.length === 0 && (
        <p className="py-4">
          {search.archived ? "No drill is archived." : "No drill here fits these words."}
        </p>
      )}
      {special && (
        <p className="mb-4 flex flex-wrap items-baseline gap-3" data-testid="special">
          <span className="font-semibold">{special.words}</span>
          <Link className="underline" to="/drills">
            all drills
          </Link>
        </p>
      )}
      {special ? (
        <ul className="border-t border-ink">
          {special.drills.map((drill) => (
            <DrillRow key={drill.id} drill={drill} />
          ))}
        </ul>
      ) : (
        byGroup(found).map(([group, families]) => (
          <Group key={group} group={group} families={families} open={searches(search)} />
        ))
      )}
    </>
  );
}

/** What trains one thing; closed until somebody looks for something or opens it. */
function Group({
  group,
  families,
  open,
}: {
  group: string;
  families: [string, DrillRead[]][];
  open: boolean;
}) {
  const count = families.reduce((sum, [, members]) => sum + members.length, 0);
  return (
    <details key={String(open)} open={open} className="border-b border-rule" data-testid="group">
      <summary className="flex cursor-pointer flex-wrap items-baseline gap-x-4 py-3">
        <h2 className="w-40 text-lg font-semibold">{groupWords(group)}</h2>
        <span className="figures w-20 text-sm text-ink-soft">
          {count} {count === 1 ? "drill" : "drills"}
        </span>
        <span className="text-sm text-ink-soft">
          {families.map(([family]) => familyWords(family).toLowerCase()).join(", ")}
        </span>
      </summary>
      {families.map(([family, members]) => (
        <section key={family} className="mb-5 pl-4">
          {families.length > 1 && (
            <h3 className="border-b border-ink pb-1 font-semibold">{familyWords(family)}</h3>
          )}
          <ul>
            {members.map((drill) => (
              <DrillRow key={drill.id} drill={drill} />
            ))}
          </ul>
        </section>
      ))}
    </details>
  );
}

/** What the address asks for: drills like another, or the figures for a fault. */
function useSpecial(drills: DrillRead[]): { words: string; drills: DrillRead[] } | null {
  const [query] = useSearchParams();
  const cause = query.get("for");
  const generators = useQuery({ ...generatorsQuery, enabled: cause !== null });
  const model = drills.find((drill) => String(drill.id) === query.get("like"));
  if (model) return { words: `Like “${model.title}”`, drills: like(drills, model) };
  if (cause === null) return null;
  const forms = formsFor(generators.data ?? [], cause);
  return {
    words: `For: ${query.get("says") ?? cause.replaceAll("_", " ")}`,
    drills: drills.filter((drill) => !drill.archived && forms.includes(drill.form)),
  };
}

interface SearchLineProps {
  drills: DrillRead[];
  search: DrillSearch;
  onSearch: (search: DrillSearch) => void;
}

function SearchLine({ drills, search, onSearch }: SearchLineProps) {
  const chosen = (
    name: "family" | "string" | "level" | "tag" | "group" | "need" | "neck" | "minutes",
    label: string,
    width: string,
    choices: Choice[],
  ) => (
    <div className={width}>
      <Select
        label={label}
        value={search[name] || ANY}
        onChange={(value) => onSearch({ ...search, [name]: value === ANY ? "" : value })}
        choices={[{ value: ANY, label: "any" }, ...choices]}
      />
    </div>
  );
  const same = (values: string[]) => values.map((value) => ({ value, label: value }));
  const families = [...new Set(drills.map((drill) => drill.family))];
  const groups = byGroup(drills).map(([group]) => group);
  const needs = [...new Set(drills.flatMap((drill) => drill.needs))].sort();
  return (
    <search className="mb-5 flex flex-wrap items-end gap-4">
      <Field
        label="Find in title, family and tags"
        words
        type="search"
        className="w-60"
        value={search.text}
        onText={(text) => onSearch({ ...search, text })}
      />
      {chosen(
        "group",
        "Trains",
        "w-32",
        groups.map((value) => ({ value, label: groupWords(value) })),
      )}
      {chosen(
        "family",
        "Family",
        "w-52",
        families.map((value) => ({ value, label: familyWords(value) })),
      )}
      {chosen("string", "String", "w-24", same(["1", "2", "3", "4", "5", "6"]))}
      {chosen(
        "level",
        "Level",
        "w-36",
        LEVELS.map((label, i) => ({ value: String(i + 1), label })),
      )}
      {chosen("neck", "On the neck", "w-36", NECK)}
      {chosen("need", "Needs", "w-36", [
        { value: PLAIN_NEED, label: "only a guitar" },
        ...needs.map((value) => ({ value, label: value.replace(/^(needs|with) /, "") })),
      ])}
      {chosen("minutes", "At most", "w-28", [
        { value: "1", label: "1 minute" },
        { value: "2", label: "2 minutes" },
        { value: "4", label: "4 minutes" },
      ])}
      {chosen("tag", "Tag", "w-36", same(tagsOf(drills)))}
      <label className="flex min-h-9 items-center gap-2 text-sm">
        <input
          type="checkbox"
          className="size-4 accent-ink"
          checked={search.archived}
          onChange={(event) => onSearch({ ...search, archived: event.target.checked })}
        />
        archived drills
      </label>
    </search>
  );
}

function DrillRow({ drill }: { drill: DrillRead }) {
  return (
    <li className="relative flex flex-wrap items-center gap-x-6 border-b border-rule py-1.5 hover:bg-sheet">
      <DrillShape drill={drill} />
      <Link
        to={`/drills/${drill.id}`}
        className="min-w-0 flex-1 basis-64 font-semibold after:absolute after:inset-0"
      >
        {drill.title}
      </Link>
      <span className="text-sm text-ink-soft md:w-48">
        {[levelWords(drill.level), ...drill.tags].filter(Boolean).join(", ")}
      </span>
      <span className="figures text-sm text-ink-soft md:w-80 md:text-right">
        {drill.bpm === null ? "free time" : `${drill.bpm} bpm`},{" "}
        {drill.members > 0 ? `set of ${drill.members}, ` : ""}
        {minutesWords(drill.minutes)}, {drill.asked} notes, {drill.takes}{" "}
        {drill.takes === 1 ? "take" : "takes"}
      </span>
    </li>
  );
}
