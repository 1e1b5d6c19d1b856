import { useSyncExternalStore } from "react";

/** As narrow as a phone held upright. */
const NARROW = "(max-width: 639px)";

function watch(changed: () => void): () => void {
  const query = window.matchMedia?.(NARROW);
  query?.addEventListener("change", changed);
  return () => query?.removeEventListener("change", changed);
}

/** Whether the page is shown on something as narrow as a phone. */
export function useNarrow(): boolean {
  return useSyncExternalStore(watch, () => window.matchMedia?.(NARROW).matches ?? false);
}
