/// <reference lib="webworker" />
/**
 * Today, the recorder and what they need without a connection. Installed only where somebody asked for it (lib/offline.ts);
 * takes are kept and sent later by the page itself (lib/outbox.ts).
 */
import { cleanupOutdatedCaches, precacheAndRoute } from "workbox-precaching";
import { NavigationRoute, registerRoute } from "workbox-routing";
import { NetworkFirst } from "workbox-strategies";
import { DAY_CACHE, END_KEEPING, isKept, PAGE_CACHE } from "./kept";

declare const self: ServiceWorkerGlobalScope;
/** The files of this build; written in by vite.config.ts. Nearly all have their digest in their names. */
declare const __BUILT_FILES__: { url: string; revision: string | null }[];

const PATIENCE_S = 8;

precacheAndRoute(__BUILT_FILES__);
cleanupOutdatedCaches();
void self.skipWaiting();
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));

/** What is being answered and kept at this moment, and whether keeping has ended. */
const underWay = new Set<Promise<void>>();
let ended = false;

function kept(cacheName: string, key?: string) {
  const strategy = new NetworkFirst({
    cacheName,
    networkTimeoutSeconds: PATIENCE_S,
    plugins: [
      { cacheWillUpdate: async ({ response }) => (response.status === 200 && !ended ? response : null) },
      ...(key ? [{ cacheKeyWillBeUsed: async () => key }] : []),
    ],
  });
  return ({ event, request }: { event: ExtendableEvent; request: Request }) => {
    const [answer, done] = strategy.handleAll({ event, request });
    const work = done.catch(() => {}).finally(() => underWay.delete(work));
    underWay.add(work);
    return answer;
  };
}

// An answer on its way when somebody signs out would be kept after all was deleted: it is waited for first.
self.addEventListener("message", (event) => {
  ended = event.data === END_KEEPING;
  if (!ended) return;
  event.waitUntil(
    Promise.all(underWay).then(async () => {
      for (const name of await caches.keys()) await caches.delete(name);
      event.ports[0]?.postMessage(END_KEEPING);
    }),
  );
});

// Every address of the application is the same page.
registerRoute(new NavigationRoute(kept(PAGE_CACHE, "/"), { denylist: [/^\/(api|_allauth|static|sheet)\//] }));

registerRoute(
  ({ url, request }) => request.method === "GET" && url.origin === self.location.origin && isKept(url),
  kept(DAY_CACHE),
);
