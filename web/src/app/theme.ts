export type Theme = "light" | "dark";

const KEY = "fortimetra.theme";

/** The theme the page is shown in: chosen before the first paint by public/theme.js. */
export function shownTheme(): Theme {
  return document.documentElement.dataset.theme === "dark" ? "dark" : "light";
}

/** Shows the page in this theme, from now on in this browser. */
export function keepTheme(theme: Theme): void {
  localStorage.setItem(KEY, theme);
  document.documentElement.dataset.theme = theme;
}
