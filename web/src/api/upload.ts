import { csrfToken, problemFrom, type Take } from "./client";

export interface UploadRequest {
  file: File;
  studentId: number;
  /** null: a set-up take. */
  drillId: number | null;
  guitarId: number | null;
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
