/** Finding as one types. */

/** Whether a text holds every word that was typed, in any order, whatever is a capital; nothing typed is in every text. */
export function holdsWords(text: string, typed: string): boolean {
  const said = text.toLowerCase();
  return typed
    .toLowerCase()
    .split(/\s+/)
    .every((word) => said.includes(word));
}
