/** What an address will need, by its first part: the larger pages that are not in the first script. */
const PAGES: [RegExp, () => Promise<unknown>][] = [
  [/^\/takes\/\d/, () => import("~/features/sheet/TakePage")],
  [/^\/record/, () => import("~/features/recorder/RecorderPage")],
  [/^\/students$/, () => import("~/features/students/Students")],
];

/** Asks for the page's script while the server still says who is signed in; the page itself says if it does not come. */
export function fetchEarly(path: string): void {
  for (const [address, load] of PAGES) if (address.test(path)) load().catch(() => {});
}
