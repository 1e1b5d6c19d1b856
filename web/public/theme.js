// Before the first paint: the theme that was chosen here, else the one the device asks for. Read by src/app/theme.ts.
{
  const kept = localStorage.getItem("fortimetra.theme");
  const asked = window.matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light";
  document.documentElement.dataset.theme = kept === "light" || kept === "dark" ? kept : asked;
}
