// Runs before the first paint: the theme follows the system until somebody swaps it with D.
(() => {
  const kept = localStorage.getItem("aldea-theme");
  const dark = kept ? kept === "dark" : matchMedia("(prefers-color-scheme: dark)").matches;
  document.documentElement.dataset.theme = dark ? "dark" : "light";
})();
