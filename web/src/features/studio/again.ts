/** Words for takes that are measured again. */

export const takesWords = (count: number) => `${count} ${count === 1 ? "take" : "takes"}`;

/** A length of work, as exactly as it can be known beforehand. */
export function workWords(minutes: number): string {
  if (minutes < 1.5) return "a minute";
  if (minutes < 90) return `${Math.round(minutes)} minutes`;
  return `${Math.round(minutes / 60)} hours`;
}
