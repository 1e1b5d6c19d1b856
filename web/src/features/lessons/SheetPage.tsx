import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, data, type Me } from "~/api/client";
import { type Sheet, sheetQuery } from "~/api/week";
import { useAct } from "~/lib/useAct";
import { day } from "~/lib/words";
import { Button } from "~/ui/Button";
import { LinkOnce } from "~/ui/LinkOnce";
import { Sure } from "~/ui/Sure";
import { Failed, Loading } from "~/ui/states";
import { PdfButton } from "./PdfButton";
import { WordsForm } from "./WordsForm";

/** One lesson sheet: the page as it is printed, and beside it what the teacher may change. */
export function SheetPage({ me }: { me: Me }) {
  const id = useParams().id ?? "";
  const sheet = useQuery(sheetQuery(id));
  if (sheet.isPending) return <Loading what="the lesson sheet" />;
  if (sheet.error) return <Failed error={sheet.error} onRetry={() => sheet.refetch()} />;
  return <OneSheet key={id} sheet={sheet.data} me={me} />;
}

function OneSheet({ sheet, me }: { sheet: Sheet; me: Me }) {
  const teacher = me.role === "teacher";
  const frame = useRef<HTMLIFrameElement>(null);
  const [version, setVersion] = useState(0);
  const navigate = useNavigate();
  const path = { params: { path: { sheet_id: sheet.id } } };
  const key = [["sheets"]];
  const share = useAct(
    (on: boolean) => data(api.PUT("/api/v1/reports/sheets/{sheet_id}/share", { ...path, body: { on } })),
    key,
  );
  const remove = useAct(
    () => api.DELETE("/api/v1/reports/sheets/{sheet_id}", path),
    [["sheets", "of"]],
    () => navigate(`/students/${sheet.student_id}/sheets`),
  );
  const list = teacher ? `/students/${sheet.student_id}/sheets` : "/sheets";
  return (
    <>
      <p className="text-sm text-ink-soft">
        <Link className="underline" to={list}>
          {teacher ? `${sheet.student}, lesson sheets` : "Lesson sheets"}
        </Link>
      </p>
      <div className="mb-4 flex flex-wrap items-end gap-2">
        <h1 className="mr-auto text-2xl font-bold">Lesson of {day(sheet.made_at, me.zone)}</h1>
        <PdfButton sheet={sheet} />
        <Button onClick={() => frame.current?.contentWindow?.print()}>Print</Button>
        {teacher && (
          <Button onClick={() => share.mutate(!sheet.link)} disabled={share.isPending}>
            {sheet.link ? "Take the link back" : "A link for the student"}
          </Button>
        )}
        {teacher && (
          <Sure
            label="Delete"
            title="Delete this lesson sheet?"
            says="Its page, its PDF and its link are gone for good; the takes stay."
            yes="Delete for good"
            no="Keep it"
            act={remove}
          />
        )}
      </div>
      {share.error && <Failed error={share.error} />}
      {teacher && sheet.link && (
        <LinkOnce link={sheet.link} says="Whoever has this link can read this sheet, and nothing else." />
      )}
      <div className={teacher ? "grid gap-6 lg:grid-cols-[22rem_minmax(0,1fr)]" : ""}>
        {teacher && <WordsForm sheet={sheet} onKept={() => setVersion((v) => v + 1)} />}
        <iframe
          ref={frame}
          key={version}
          title="The sheet as it is printed"
          data-testid="sheet-page"
          src={`/api/v1/reports/sheets/${sheet.id}/page`}
          className="h-[75vh] w-full border border-rule-strong bg-white"
        />
      </div>
    </>
  );
}
