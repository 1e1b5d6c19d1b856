// Before the first paint: the theme that was chosen here, else the one the device asks for; where the device forces its
// own colours, always its own. Read by src/app/theme.ts.
{
  const forced = window.matchMedia("(forced-colors: active)").matches;
  const kept = forced ? null : localStorage.getItem("fortimetra.theme");
  const asked = window.matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light";
  document.documentElement.dataset.theme = kept === "light" || kept === "dark" ? kept : asked;
}
