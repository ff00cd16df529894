// Fields that are made anew for another choice keep what was typed while they were on their way.

import { $, $$ } from "./dom.js";

const typedIn = (box) => Object.fromEntries($$("input, select, textarea", box).map((f) => [f.name, f.value]));

// What was typed since `asked`, by name.
export function typedSince(asked, now) {
  return Object.fromEntries(Object.entries(now).filter(([name, value]) => value !== asked[name]));
}

let asked = null;

export function start() {
  document.body.addEventListener("htmx:beforeRequest", (event) => {
    const box = event.detail.target;
    if (box?.dataset.remade !== undefined) asked = typedIn(box);
  });
  document.body.addEventListener("htmx:beforeSwap", (event) => {
    const box = event.detail.target;
    if (box?.dataset.remade === undefined || !asked) return;
    const since = typedSince(asked, typedIn(box));
    const { name: focused, selectionStart: from, selectionEnd: to } = document.activeElement ?? {};
    box.addEventListener("htmx:afterSwap", () => {
      for (const [name, value] of Object.entries(since)) {
        const field = $(`[name="${name}"]`, box);
        if (field) field.value = value;
      }
      const again = focused && $(`[name="${focused}"]`, box);
      if (!again) return;
      again.focus({ preventScroll: true });
      if (typeof from === "number") again.setSelectionRange(from, to); // who types goes on typing there
    }, { once: true });
  });
}
