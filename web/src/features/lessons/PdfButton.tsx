import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, data } from "~/api/client";
import { type Sheet, sheetQuery } from "~/api/week";
import { useAct } from "~/lib/useAct";
import { Button, buttonClass } from "~/ui/Button";

const ASK_EVERY_MS = 700;

/** The PDF is set by a worker the first time somebody wants it. */
export function PdfButton({ sheet }: { sheet: Sheet }) {
  const [wanted, setWanted] = useState(false);
  const ask = useAct(
    () =>
      data(api.POST("/api/v1/reports/sheets/{sheet_id}/pdf", { params: { path: { sheet_id: sheet.id } } })),
    [["sheets", sheet.id]],
  );
  useQuery({
    ...sheetQuery(sheet.id),
    refetchInterval: wanted && sheet.pdf === "waiting" ? ASK_EVERY_MS : false,
  });
  if (sheet.pdf === "ready")
    return (
      <a className={buttonClass("strong")} href={`/api/v1/reports/sheets/${sheet.id}/pdf`} data-testid="pdf">
        Save as PDF
      </a>
    );
  if (sheet.pdf === "failed")
    return <span className="text-sm">The PDF could not be made; print it instead.</span>;
  return (
    <Button
      disabled={ask.isPending || sheet.pdf === "waiting"}
      onClick={() => {
        setWanted(true);
        ask.mutate();
      }}
    >
      {sheet.pdf === "waiting" ? "Setting it …" : "Make the PDF"}
    </Button>
  );
}
