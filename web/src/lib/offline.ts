/** Practising without a connection: on this device alone, and only where somebody asked for it. */
import type { QueryClient } from "@tanstack/react-query";
import { drillQuery, drillsQuery, guitarsQuery, presentStudentsQuery } from "~/api/queries";
import type { Plan } from "~/api/week";
import { BEGIN_KEEPING, END_KEEPING, PAGE_CACHE } from "~/offline/kept";

const ASKED = "fortimetra.offline";
const WORKER = "/sw.js";
const ENDS_WITHIN_MS = 10_000;

/** Whether this browser can do it at all. */
export function canKeep(): boolean {
  return "serviceWorker" in navigator && "caches" in window;
}

export function isKeeping(): boolean {
  try {
    return canKeep() && localStorage.getItem(ASKED) === "yes";
  } catch {
    return false;
  }
}

/** Begin to keep the day here; ready once everything the page needs is in this browser. */
export async function beginKeeping(): Promise<void> {
  await navigator.serviceWorker.register(WORKER);
  // Ended and begun again on one page, it is the same worker.
  (await navigator.serviceWorker.ready).active?.postMessage(BEGIN_KEEPING);
  localStorage.setItem(ASKED, "yes");
  // The page itself was loaded before the worker was there.
  const page = await caches.open(PAGE_CACHE);
  await page.add("/");
}

/** Forget everything that was kept; takes that wait to be sent stay. */
export async function endKeeping(): Promise<void> {
  if (!canKeep()) return;
  localStorage.removeItem(ASKED);
  // The worker first: what it still answers it would keep again.
  for (const registration of await navigator.serviceWorker.getRegistrations()) {
    if (registration.active) await toldToEnd(registration.active);
    await registration.unregister();
  }
  for (const name of await caches.keys()) await caches.delete(name);
}

/** Answers on their way are kept before all is deleted, not after; a worker that does not answer is not waited for. */
async function toldToEnd(worker: ServiceWorker): Promise<void> {
  const line = new MessageChannel();
  const told = new Promise((resolve) => {
    line.port1.onmessage = resolve;
  });
  worker.postMessage(END_KEEPING, [line.port2]);
  await Promise.race([told, new Promise((resolve) => setTimeout(resolve, ENDS_WITHIN_MS))]);
}

/** Ask for what a day needs, so that it is here when the connection is not. */
export async function keepDay(queries: QueryClient, studentId: number, plan: Plan): Promise<void> {
  const asked = [
    queries.fetchQuery(presentStudentsQuery),
    queries.fetchQuery(guitarsQuery(studentId)),
    queries.fetchQuery(drillsQuery),
    ...plan.assignments.map((a) => queries.fetchQuery(drillQuery(a.drill_id, a.step.per_click ?? null))),
  ];
  await Promise.allSettled(asked);
}
