/** What is kept in the browser for practising without a connection, and where. */
export const DAY_CACHE = "fortimetra-day";
export const PAGE_CACHE = "fortimetra-page";
/** What the page says to the worker; the worker says END_KEEPING itself once all is forgotten. */
export const BEGIN_KEEPING = "begin-keeping";
export const END_KEEPING = "end-keeping";

/** A student's own day: who is signed in, the plan, its drills and their cards, the guitars. Never a recording. */
const KEPT = [
  /^\/api\/v1\/me$/,
  /^\/api\/v1\/students$/,
  /^\/api\/v1\/students\/\d+\/consent$/,
  /^\/api\/v1\/guitars$/,
  /^\/api\/v1\/drills$/,
  /^\/api\/v1\/drills\/\d+$/,
  /^\/api\/v1\/drills\/\d+\/card$/,
  /^\/api\/v1\/plans\/week$/,
  /^\/api\/v1\/reports\/keeping$/,
];

export function isKept(url: URL): boolean {
  return KEPT.some((path) => path.test(url.pathname));
}
