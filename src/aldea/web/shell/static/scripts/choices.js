// What depends on a choice: `data-when="approach=drier,wetter"` is seen while one of these is chosen.

import { $$ } from "./dom.js";

export function applyWhen(root = document) {
  for (const part of $$("[data-when]", root)) {
    const [name, values] = part.dataset.when.split("=");
    const field = part.closest("form").elements[name];
    part.hidden = !("always" in part.dataset) && !values.split(",").includes(field.value);
  }
}

export function start() {
  document.addEventListener("change", () => applyWhen());
  applyWhen();
}
