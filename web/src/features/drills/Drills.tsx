import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";
import { Link, useNavigate } from "react-router";
import { csrfToken, type DrillDetail, type DrillRead, type Me, problemFrom } from "~/api/client";
import { drillsQuery } from "~/api/queries";
import { familyWords } from "~/lib/words";
import { Button, buttonClass } from "~/ui/Button";
import { Empty, Failed, Loading } from "~/ui/states";
import { UploadButton } from "~/ui/upload/UploadButton";

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
  const families = grouped(drills.data ?? []);
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
      {drills.data?.length === 0 && <Empty title="No drills yet">Import a drill file to begin.</Empty>}
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
        {drill.bpm === null ? "free" : `${drill.bpm} bpm`}, {drill.repeats} repeats, {drill.asked} notes,{" "}
        {drill.takes} {drill.takes === 1 ? "take" : "takes"}
      </span>
    </li>
  );
}
