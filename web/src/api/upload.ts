import { csrfToken, problemFrom, type Take } from "./client";
import type { components } from "./schema";

type Guess = components["schemas"]["GuessRead"];

export interface UploadRequest {
  file: File;
  studentId: number;
  /** null: a set-up take. */
  drillId: number | null;
  guitarId: number | null;
  /** Of what was recorded in the page: when, and how. */
  recorded?: { at: string; capture: string } | undefined;
}

/** Send a recording; XMLHttpRequest because fetch cannot tell how much has gone out. */
export function uploadTake(
  request: UploadRequest,
  onFraction: (fraction: number) => void,
  signal: AbortSignal,
): Promise<Take> {
  return new Promise((resolve, reject) => {
    const form = new FormData();
    form.set("student_id", String(request.studentId));
    if (request.drillId !== null) form.set("drill_id", String(request.drillId));
    if (request.guitarId !== null) form.set("guitar_id", String(request.guitarId));
    if (request.recorded) {
      form.set("played_at", request.recorded.at);
      form.set("capture", request.recorded.capture);
    }
    form.set("file", request.file);
    const xhr = new XMLHttpRequest();
    xhr.open("POST", "/api/v1/takes");
    xhr.setRequestHeader("X-CSRFToken", csrfToken());
    xhr.upload.onprogress = (event) => event.lengthComputable && onFraction(event.loaded / event.total);
    xhr.onload = () =>
      xhr.status === 201
        ? resolve(JSON.parse(xhr.responseText) as Take)
        : reject(problemFrom(xhr.status, xhr.responseText));
    xhr.onerror = () => reject(problemFrom(0, ""));
    xhr.onabort = () => reject(new DOMException("cancelled", "AbortError"));
    signal.addEventListener("abort", () => xhr.abort());
    xhr.send(form);
  });
}

export interface DrillGuessed {
  /** The drill whose notes fit best, or null where none does. */
  drillId: number | null;
  /** All whose notes fit, the best first; share of heard and asked notes that are each other's. */
  fits: { drillId: number; share: number }[];
  problem: string;
}

const ASK_EVERY_MS = 250;

/** Have a recording heard whose name says no drill. */
export async function guessDrill(file: File, signal: AbortSignal): Promise<DrillGuessed> {
  const form = new FormData();
  form.set("file", file);
  return heard("/api/v1/takes/guesses", form, signal);
}

/** Have a take heard whose notes do not fit its drill. */
export const guessDrillOfTake = (takeId: string, signal: AbortSignal): Promise<DrillGuessed> =>
  heard(`/api/v1/takes/${takeId}/guesses`, null, signal);

async function heard(path: string, body: FormData | null, signal: AbortSignal): Promise<DrillGuessed> {
  const headers = { "X-CSRFToken": csrfToken() };
  const asked = await fetch(path, { method: "POST", body, headers, signal });
  if (!asked.ok) throw problemFrom(asked.status, await asked.text());
  let guess = (await asked.json()) as Guess;
  while (guess.state === "waiting") {
    await new Promise((resolve) => window.setTimeout(resolve, ASK_EVERY_MS));
    const answer = await fetch(`/api/v1/takes/guesses/${guess.id}`, { signal });
    if (!answer.ok) throw problemFrom(answer.status, await answer.text());
    guess = (await answer.json()) as Guess;
  }
  const fits = guess.drills.map(({ drill_id, share }) => ({ drillId: drill_id, share }));
  return { drillId: fits[0]?.drillId ?? null, fits, problem: guess.problem };
}
