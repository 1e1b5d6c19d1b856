/** Before every file of unit tests: a network that answers only what a test has said, and what jsdom lacks. */
import { cleanup } from "@testing-library/react";
import { afterAll, afterEach } from "vitest";
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

network.listen({ onUnhandledRequest: "error" });

afterEach(() => {
  if (typeof document !== "undefined") cleanup();
  network.resetHandlers();
  forget();
});

afterAll(() => network.close());
