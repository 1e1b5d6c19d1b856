/// <reference lib="webworker" />
/**
 * Today, the recorder and what they need without a connection. Installed only where somebody asked for it (lib/offline.ts);
 * takes are kept and sent later by the page itself (lib/outbox.ts).
 */
import { cleanupOutdatedCaches, precacheAndRoute } from "workbox-precaching";
import { NavigationRoute, registerRoute } from "workbox-routing";
import { NetworkFirst } from "workbox-strategies";
import { DAY_CACHE, isKept, PAGE_CACHE } from "./kept";

declare const self: ServiceWorkerGlobalScope;
/** The files of this build; written in by vite.config.ts. Nearly all have their digest in their names. */
declare const __BUILT_FILES__: { url: string; revision: string | null }[];

const PATIENCE_S = 8;

precacheAndRoute(__BUILT_FILES__);
cleanupOutdatedCaches();
void self.skipWaiting();
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));

// Every address of the application is the same page.
registerRoute(
  new NavigationRoute(
    new NetworkFirst({
      cacheName: PAGE_CACHE,
      networkTimeoutSeconds: PATIENCE_S,
      plugins: [{ cacheKeyWillBeUsed: async () => "/" }],
    }),
    { denylist: [/^\/(api|_allauth|static|sheet)\//] },
  ),
);

registerRoute(
  ({ url, request }) => request.method === "GET" && url.origin === self.location.origin && isKept(url),
  new NetworkFirst({ cacheName: DAY_CACHE, networkTimeoutSeconds: PATIENCE_S }),
);
