/** Which chapter of the handbook belongs to which page. Pure; apart from the text, which is loaded with its page. */

/** The chapter that fits a page. */
export function chapterFor(path: string, role: "teacher" | "student"): string {
  if (/^\/takes\/./.test(path)) return "sheet";
  if (path.startsWith("/compare")) return "numbers";
  if (path.startsWith("/record") || path.startsWith("/guitars")) return "recording";
  if (/\/plan$/.test(path)) return "ladder";
  if (/progress/.test(path)) return "numbers";
  if (path === "/students") return "class";
  if (/^\/students\/\d+$/.test(path)) return "first-lesson";
  if (path === "/studio") return "consent";
  return role === "teacher" ? "desk" : "today";
}
