/** Takes that wait to be sent: in the browser's own store until the server has them. */
import { type DBSchema, type IDBPDatabase, openDB } from "idb";
import { csrfToken, Problem, problemFrom, type Take } from "~/api/client";

export interface Waiting {
  id: string;
  studentId: number;
  drillId: number;
  drillVersion: number;
  guitarId: number | null;
  playedAt: string;
  name: string;
  click: string | null;
  /** Notes to the click, where that is not as the drill is written: a step of a ladder. */
  perClick?: number | null;
  /** Sent with a guest's link instead of by somebody who is signed in. */
  guest?: string;
  capture: string;
  sound: Blob;
  /** Why the server will not have it; it stays here until it is thrown away. */
  refused: string | null;
}

interface Store extends DBSchema {
  takes: { key: string; value: Waiting };
}

let store: Promise<IDBPDatabase<Store>> | null = null;

function opened(): Promise<IDBPDatabase<Store>> {
  store ??= openDB<Store>("fortimetra", 1, {
    upgrade: (database) => {
      database.createObjectStore("takes", { keyPath: "id" });
    },
  });
  return store;
}

const listeners = new Set<() => void>();
function told() {
  for (const listener of listeners) listener();
}

/** Called whenever something was put in or taken out. */
export function onOutbox(listener: () => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

export async function putIn(take: Waiting): Promise<void> {
  await (await opened()).put("takes", take);
  told();
}

export async function waiting(): Promise<Waiting[]> {
  return (await opened()).getAll("takes");
}

export async function takeOut(id: string): Promise<void> {
  await (await opened()).delete("takes", id);
  told();
}

/** Send one take; it leaves the store when the server has it. A lost connection leaves it there. */
export async function sendOne(take: Waiting): Promise<Take> {
  // Never twice at once, whichever page of this browser does it.
  if (!navigator.locks) return sendNow(take);
  return navigator.locks.request(`fortimetra-take-${take.id}`, { ifAvailable: true }, (lock) => {
    if (!lock) throw new Problem(0, "being_sent", "This take is being sent already.");
    return sendNow(take);
  });
}

async function sendNow(take: Waiting): Promise<Take> {
  const form = new FormData();
  form.set("id", take.id);
  if (take.guest === undefined) {
    form.set("student_id", String(take.studentId));
    form.set("drill_id", String(take.drillId));
    form.set("drill_version", String(take.drillVersion));
    if (take.guitarId !== null) form.set("guitar_id", String(take.guitarId));
    if (take.perClick) form.set("per_click", String(take.perClick));
    form.set("played_at", take.playedAt);
  }
  if (take.click !== null) form.set("click", take.click);
  form.set("capture", take.capture);
  form.set("file", take.sound, take.name);
  let answer: Response;
  try {
    answer = await fetch(take.guest === undefined ? "/api/v1/takes" : `/api/v1/guests/${take.guest}/take`, {
      method: "POST",
      body: form,
      headers: { "X-CSRFToken": csrfToken() },
    });
  } catch {
    throw problemFrom(0, "");
  }
  const text = await answer.text();
  if (answer.status === 201) {
    await takeOut(take.id);
    return JSON.parse(text) as Take;
  }
  const problem = problemFrom(answer.status, text);
  if (isFinal(problem)) await putIn({ ...take, refused: problem.message });
  throw problem;
}

/** Whether trying again later cannot help. */
export function isFinal(problem: Problem): boolean {
  return problem.status >= 400 && problem.status < 500 && ![401, 403, 408, 429].includes(problem.status);
}

let sending = false;

/** Send everything that waits, one after the other; stops at the first that does not get through. */
export async function sendAll(): Promise<number> {
  if (sending) return 0;
  sending = true;
  let sent = 0;
  try {
    for (const take of await waiting()) {
      if (take.refused !== null) continue;
      try {
        await sendOne(take);
        sent += 1;
      } catch (error) {
        if (!(error instanceof Problem) || !isFinal(error)) break;
      }
    }
  } finally {
    sending = false;
  }
  return sent;
}
