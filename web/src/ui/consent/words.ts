import type { ConsentRead } from "~/api/consent";
import { fullDayWords } from "~/lib/days";

const WAYS: Record<ConsentRead["way"], string> = {
  page: "on this page",
  writing: "in writing",
  word: "by word of mouth",
};

/** Who agreed, how and when. */
export function agreedWords(consent: ConsentRead): string {
  const who =
    consent.by === "guardian"
      ? [consent.name, "parent or guardian"].filter(Boolean).join(", ")
      : consent.name;
  return `${who}: ${WAYS[consent.way]}, ${fullDayWords(consent.day)}`;
}
