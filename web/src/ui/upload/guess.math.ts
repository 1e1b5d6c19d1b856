/** Who and what a recording is, guessed from its file's name. Pure. */

export interface Named {
  id: number;
  name: string;
}

// Words that say nothing of a drill.
const EMPTY = new Set([
  "take",
  "rec",
  "recording",
  "the",
  "at",
  "and",
  "of",
  "a",
  "in",
  "wav",
  "flac",
  "mp3",
  "m4a",
  "ogg",
]);

function words(text: string): string[] {
  return text
    .toLowerCase()
    .replace(/\.[a-z0-9]{2,4}$/, "")
    .split(/[^\p{L}\p{N}]+/u)
    .filter((word) => word !== "" && !EMPTY.has(word));
}

/**
 * The candidate whose words the file's name holds best, or null where none stands out.
 *
 * A word that many candidates share says less than one that only one has.
 */
export function guess(fileName: string, candidates: readonly Named[]): Named | null {
  const said = new Set(words(fileName));
  const lists = candidates.map((candidate) => new Set(words(candidate.name)));
  const weight = (word: string) => 1 / lists.filter((list) => list.has(word)).length;
  const scores = lists.map((list) =>
    [...list].reduce((sum, word) => sum + (said.has(word) ? weight(word) : 0), 0),
  );
  const best = Math.max(0, ...scores);
  const at = scores.indexOf(best);
  const second = Math.max(0, ...scores.filter((_, i) => i !== at));
  return best >= LEAST_SCORE && best > second + STANDS_OUT ? (candidates[at] ?? null) : null;
}

const LEAST_SCORE = 0.5;
const STANDS_OUT = 0.05;
