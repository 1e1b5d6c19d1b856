/** The larger pages that are not in the first script: App shows them, `fetchEarly` asks for them sooner. */
export const loadTake = () => import("~/features/sheet/TakePage");
export const loadRecorder = () => import("~/features/recorder/RecorderPage");
export const loadStudents = () => import("~/features/students/Students");

const PAGES: [RegExp, () => Promise<unknown>][] = [
  [/^\/takes\/./, loadTake],
  [/^\/record(\/|$)/, loadRecorder],
  [/^\/students$/, loadStudents],
];

/** Asks for the page's script while the server still says who is signed in; the page itself says if it does not come. */
export function fetchEarly(path: string): void {
  for (const [address, load] of PAGES) if (address.test(path)) load().catch(() => {});
}
