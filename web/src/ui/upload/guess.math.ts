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
  const found = lists.map((list) => {
    const whole = [...list].reduce((sum, word) => sum + weight(word), 0);
    const matched = [...list].reduce((sum, word) => sum + (said.has(word) ? weight(word) : 0), 0);
    const coverage = whole > 0 ? matched / whole : 0;
    // Of two that hold the same words the one without others is meant.
    return { matched, coverage, score: matched * (1 + coverage) };
  });
  const best = Math.max(0, ...found.map((f) => f.score));
  const at = found.findIndex((f) => f.score === best);
  const second = Math.max(0, ...found.filter((_, i) => i !== at).map((f) => f.score));
  const there = found[at];
  const enough = there !== undefined && (there.matched >= LEAST_MATCHED || there.coverage >= LEAST_COVERAGE);
  return enough && best > second * STANDS_OUT ? (candidates[at] ?? null) : null;
}

const LEAST_MATCHED = 0.5;
const LEAST_COVERAGE = 0.7;
const STANDS_OUT = 1.05;
