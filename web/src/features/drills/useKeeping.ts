import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { type DrillContent, type DrillDetail, Problem } from "~/api/client";
import { writeDrill } from "~/api/drills";
import { drillQuery } from "~/api/queries";

const QUIET_MS = 1200;
const DRAFT_MS = 200;

export type Kept =
  | { state: "kept"; number: number }
  | { state: "waiting" | "keeping" }
  | { state: "refused"; why: string; conflict: boolean };

interface Draft {
  number: number;
  content: DrillContent;
}

const draftKey = (id: number) => `fortimetra-drill-${id}`;

function keepDraft(id: number, number: number, content: DrillContent) {
  try {
    localStorage.setItem(draftKey(id), JSON.stringify({ number, content } satisfies Draft));
  } catch {
    // The browser has no room; the server keeps it a moment later.
  }
}

/** What was written and not kept before the page went away, if it still fits the drill. */
export function draftOf(drill: DrillDetail): DrillContent | null {
  try {
    const draft = JSON.parse(localStorage.getItem(draftKey(drill.id)) ?? "null") as Draft | null;
    return draft && draft.number === drill.version ? draft.content : null;
  } catch {
    return null;
  }
}

/**
 * Keeps a drill as it is written: on the server when the keys have been still for a moment, and in the browser until
 * the server has it.
 */
export function useKeeping(
  drill: DrillDetail,
  content: DrillContent,
): { kept: Kept; keepNow: () => Promise<void> } {
  const queries = useQueryClient();
  const [kept, setKept] = useState<Kept>({ state: "kept", number: drill.version });
  const number = useRef(drill.version);
  const last = useRef(drill.content);
  const newest = useRef(content);
  const running = useRef<Promise<void> | null>(null);
  newest.current = content;

  const keepNow = useCallback(async () => {
    // One after the other, each on top of the one before.
    while (running.current) await running.current;
    const written = newest.current;
    if (written === last.current) return;
    setKept({ state: "keeping" });
    const run = writeDrill(drill.id, written, number.current)
      .then((saved) => {
        number.current = saved.version;
        last.current = written;
        localStorage.removeItem(draftKey(drill.id));
        queries.setQueryData(drillQuery(drill.id).queryKey, saved);
        void queries.invalidateQueries({ queryKey: ["drills"], exact: true });
        setKept(newest.current === written ? { state: "kept", number: saved.version } : { state: "waiting" });
      })
      .catch((error: unknown) => {
        const conflict = error instanceof Problem && error.code === "changed_meanwhile";
        const why = error instanceof Error ? error.message : "The server does not answer.";
        setKept({ state: "refused", why, conflict });
      })
      .finally(() => {
        running.current = null;
      });
    running.current = run;
    await run;
  }, [drill.id, queries]);

  useEffect(() => {
    if (content === last.current) return;
    setKept((before) => (before.state === "refused" && before.conflict ? before : { state: "waiting" }));
    const note = window.setTimeout(() => keepDraft(drill.id, number.current, content), DRAFT_MS);
    const timer = window.setTimeout(() => void keepNow(), QUIET_MS);
    return () => {
      window.clearTimeout(note);
      window.clearTimeout(timer);
    };
  }, [content, drill.id, keepNow]);

  useEffect(() => {
    const leave = () => {
      if (newest.current !== last.current) keepDraft(drill.id, number.current, newest.current);
    };
    window.addEventListener("pagehide", leave);
    return () => {
      window.removeEventListener("pagehide", leave);
      // Another page of the app: there is time to keep it on the server as well.
      leave();
      void keepNow();
    };
  }, [drill.id, keepNow]);

  return { kept, keepNow };
}
