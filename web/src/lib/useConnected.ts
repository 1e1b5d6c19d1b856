import { useSyncExternalStore } from "react";

function watch(changed: () => void): () => void {
  window.addEventListener("online", changed);
  window.addEventListener("offline", changed);
  return () => {
    window.removeEventListener("online", changed);
    window.removeEventListener("offline", changed);
  };
}

/** Whether the browser knows of a network; it may be wrong to the good side. */
export function useConnected(): boolean {
  return useSyncExternalStore(watch, () => navigator.onLine);
}
