/** Practising without a connection: on this device alone, and only where somebody asked for it. */
import type { QueryClient } from "@tanstack/react-query";
import { drillQuery, drillsQuery, guitarsQuery, presentStudentsQuery } from "~/api/queries";
import type { Plan } from "~/api/week";
import { PAGE_CACHE } from "~/offline/kept";

const ASKED = "fortimetra.offline";
const WORKER = "/sw.js";

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
  await navigator.serviceWorker.ready;
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
  for (const worker of await navigator.serviceWorker.getRegistrations()) await worker.unregister();
  for (const name of await caches.keys()) await caches.delete(name);
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
