import { useCallback, useState } from "react";

/** A choice this browser remembers; where it may keep nothing, it is remembered while the page is open. */
export function useKept<T>(key: string, first: T): [T, (next: T) => void] {
  const [value, setValue] = useState<T>(() => {
    try {
      const kept = localStorage.getItem(key);
      return kept === null ? first : (JSON.parse(kept) as T);
    } catch {
      return first;
    }
  });
  const keep = useCallback(
    (next: T) => {
      setValue(next);
      try {
        localStorage.setItem(key, JSON.stringify(next));
      } catch {
        // A browser that keeps nothing still shows it.
      }
    },
    [key],
  );
  return [value, keep];
}
