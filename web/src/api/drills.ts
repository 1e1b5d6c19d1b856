/** Changes to drills that more than one place makes. */
import {
  api,
  csrfToken,
  type DrillContent,
  type DrillDetail,
  data,
  problemFrom,
  type Schemas,
} from "./client";

export type ScoreRead = Schemas["ScoreRead"];
export type Shown = Schemas["Shown"];
export type PreviewAsked = Schemas["PreviewAsked"];

/** What is not given stays. */
export function changeDrill(id: number, change: Partial<Schemas["DrillChange"]>): Promise<DrillDetail> {
  return data(
    api.PATCH("/api/v1/drills/{drill_id}", {
      params: { path: { drill_id: id } },
      body: change as Schemas["DrillChange"],
    }),
  );
}

/** A new version on top of `number`. */
export function writeDrill(id: number, content: DrillContent, number: number): Promise<DrillDetail> {
  return data(
    api.PUT("/api/v1/drills/{drill_id}/content", {
      params: { path: { drill_id: id } },
      body: { content, number } as Schemas["DrillWritten"],
    }),
  );
}

/** Send a file to an address that takes one. */
export async function sendFile<T>(address: string, file: File): Promise<T> {
  const form = new FormData();
  form.set("file", file);
  const answer = await fetch(address, {
    method: "POST",
    body: form,
    headers: { "X-CSRFToken": csrfToken() },
  });
  const text = await answer.text();
  if (!answer.ok) throw problemFrom(answer.status, text);
  return JSON.parse(text) as T;
}
