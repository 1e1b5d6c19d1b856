import { useEffect, useRef } from "react";
import { guessDrill } from "~/api/upload";
import type { Row } from "./ManyDialog";

/** Recordings whose names say no drill are heard, one after the other. */
export function useHearing(
  files: File[],
  open: (i: number) => boolean,
  ready: boolean,
  set: (i: number, part: Partial<Row>) => void,
) {
  const now = useRef({ open, set });
  now.current = { open, set };
  useEffect(() => {
    if (!ready) return;
    const abort = new AbortController();
    void (async () => {
      for (const [i, file] of files.entries()) {
        if (abort.signal.aborted) return;
        if (!now.current.open(i)) continue;
        now.current.set(i, { heard: "Listening for its drill …" });
        const found = await guessDrill(file, abort.signal).catch(() => null);
        if (abort.signal.aborted) return;
        now.current.set(
          i,
          found?.drillId
            ? { drill: String(found.drillId), heard: "Told by its notes." }
            : { heard: found?.problem || "Its notes fit no drill; choose it by hand." },
        );
      }
    })();
    return () => abort.abort();
  }, [files, ready]);
}
