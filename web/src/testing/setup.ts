/** Before every file of unit tests: a network that answers only what a test has said, and what jsdom lacks. */
import { cleanup, configure } from "@testing-library/react";
import { afterAll, afterEach, beforeEach, vi } from "vitest";
import { forget, network } from "./wire";

const NativeRequest = globalThis.Request;

if (typeof document !== "undefined") {
  // A page's addresses are relative to it; outside a browser a request must be whole.
  globalThis.Request = class extends NativeRequest {
    constructor(input: RequestInfo | URL, init?: RequestInit) {
      super(typeof input === "string" ? new URL(input, document.baseURI) : input, init);
    }
  };
  globalThis.ResizeObserver ??= class {
    observe() {}
    unobserve() {}
    disconnect() {}
  };
  // Radix asks for these when a list opens.
  Element.prototype.scrollIntoView ??= () => {};
  Element.prototype.hasPointerCapture ??= () => false;
  Element.prototype.setPointerCapture ??= () => {};
  Element.prototype.releasePointerCapture ??= () => {};
}

// Days of the tests are days of this week; only the date stands still, waiting goes on.
beforeEach(() => vi.useFakeTimers({ toFake: ["Date"], now: new Date("2026-11-26T12:00:00Z") }));

// How long something takes is no test's business: a busy machine waits longer.
configure({ asyncUtilTimeout: 30_000 });

network.listen({ onUnhandledRequest: "error" });

afterEach(() => {
  if (typeof document !== "undefined") cleanup();
  vi.useRealTimers();
  network.resetHandlers();
  forget();
});

afterAll(() => network.close());
