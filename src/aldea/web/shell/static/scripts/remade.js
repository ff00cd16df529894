// Fields that are made anew for another choice keep what was typed while they were on their way.

import { $, $$ } from "./dom.js";

const isBox = (field) => field.type === "checkbox" || field.type === "radio";
// A box or a choice by its name and value, everything else by its name.
const nameOf = (field) => (isBox(field) ? `${field.name}=${field.value}` : field.name);
const stateOf = (field) => (isBox(field) ? field.checked : field.value);
export const typedIn = (box) =>
  Object.fromEntries($$("input, select, textarea", box).map((field) => [nameOf(field), stateOf(field)]));

export function typeAgain(box, since) {
  for (const field of $$("input, select, textarea", box)) {
    const state = since[nameOf(field)];
    if (state === undefined) continue;
    if (isBox(field)) field.checked = state;
    else field.value = state;
  }
}

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
      typeAgain(box, since);
      const again = focused && $(`[name="${focused}"]`, box);
      if (!again) return;
      again.focus({ preventScroll: true });
      if (typeof from === "number") again.setSelectionRange(from, to); // who types goes on typing there
    }, { once: true });
  });
}
