import { createContext, useContext } from "react";
import type { Curves, Me, NoiseEvent, TakeMeasured } from "~/api/client";
import type { Player } from "~/lib/usePlayer";
import type { SheetNote, Tolerances } from "~/ui/take/notes.math";
import type { LaneName } from "~/ui/take/sheet.math";
import type { Choice } from "./useChoice";
import type { Listening } from "./useListening";
import type { Trying } from "./useTrial";
import type { View } from "./useView";
import type { Word } from "./useWord";
import type { Measure } from "./values/Value";

/** Repeats in line, or one strip stacked repeat under repeat. */
export type Arrangement = "line" | LaneName;
/** What the teacher is being asked for. */
export type Asking = "verdict" | "comment" | null;
export type Cause = TakeMeasured["analysis"]["causes"][number];

/** Everything the parts of a take's sheet share: what was measured, what is selected, what can be done. */
export interface Sheet {
  me: Me;
  teacher: boolean;
  measured: TakeMeasured;
  curves: Curves;
  notes: SheetNote[];
  tolerances: Tolerances;
  /** Strips the drill is judged for. */
  lanes: LaneName[];
  /** More than one repeat was asked. */
  several: boolean;
  view: View;
  player: Player;
  soundError: unknown;
  listening: Listening;
  choice: Choice;
  /** Seconds from and to of a chosen range of notes; null for one note. */
  range: readonly [number, number] | null;
  selectedEvent: NoiseEvent | null;
  selectEvent: (event: NoiseEvent) => void;
  /** Seconds of the recording that were marked by pointer. */
  stretch: readonly [number, number] | null;
  markStretch: (stretch: readonly [number, number] | null) => void;
  /** Code of the cause whose notes are being gone through. */
  causeShown: string | null;
  showCause: (cause: Cause) => void;
  arrangement: Arrangement;
  arrange: (arrangement: Arrangement) => void;
  word: Word;
  asking: Asking;
  /** Of which measure another verdict is asked; null for the note as a whole. */
  askedOf: Measure | null;
  ask: (asking: Asking, measure?: Measure) => void;
  trying: Trying;
  help: boolean;
  showHelp: (shown: boolean) => void;
}

export const SheetContext = createContext<Sheet | null>(null);

/** The sheet this is a part of. */
export function useSheet(): Sheet {
  const sheet = useContext(SheetContext);
  if (!sheet) throw new Error("This belongs on a take's sheet.");
  return sheet;
}
