/** What the Desk shows, kept for the evening: the sheet's "next take" follows the same order. */
import { useCallback, useSyncExternalStore } from "react";
import type { DeskAsked } from "~/api/queries";

const KEY = "fortimetra-desk";
const EVERYTHING: DeskAsked = { show: "waiting" };
let shown: DeskAsked | null = null;
const watchers = new Set<() => void>();

function read(): DeskAsked {
  if (shown) return shown;
  try {
    shown = { ...EVERYTHING, ...(JSON.parse(sessionStorage.getItem(KEY) ?? "{}") as Partial<DeskAsked>) };
  } catch {
    shown = EVERYTHING;
  }
  return shown;
}

export function useDeskFilter(): [DeskAsked, (change: Partial<DeskAsked>) => void] {
  const filter = useSyncExternalStore((changed) => {
    watchers.add(changed);
    return () => watchers.delete(changed);
  }, read);
  const change = useCallback((part: Partial<DeskAsked>) => {
    shown = { ...read(), ...part };
    sessionStorage.setItem(KEY, JSON.stringify(shown));
    for (const changed of watchers) changed();
  }, []);
  return [filter, change];
}
