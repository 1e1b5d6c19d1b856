import { yOfCents } from "~/lib/tune.math";

export const TUNE_HEIGHT = 196;
/** Where an error stands on the Tune strip, px from its top. */
export const yOfError = (cents: number) => yOfCents(cents, TUNE_HEIGHT);
