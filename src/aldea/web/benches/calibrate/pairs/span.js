// A span of a trace, chosen by dragging over it; minutes at the scrubber do the same by keys.

import { $, $$, followPointer } from "/static/scripts/dom.js";

// The span between two shares of a strip, earlier end first, in whole milliseconds.
export function spanOf(first, second, start, end) {
  const [a, b] = [first, second].sort((x, y) => x - y);
  return [Math.round(start + a * (end - start)), Math.round(start + b * (end - start))];
}

function drag(strip, event) {
  const box = strip.getBoundingClientRect();
  const share = (e) => Math.min(Math.max((e.clientX - box.left) / box.width, 0), 1);
  const first = share(event);
  const chosen = $("[data-chosen]", strip);
  const width = strip.viewBox.baseVal.width;
  const draw = (e) => {
    const [a, b] = [first, share(e)].sort((x, y) => x - y);
    chosen.setAttribute("x", a * width);
    chosen.setAttribute("width", Math.max(1, (b - a) * width));
  };
  const was = ["x", "width"].map((side) => [side, chosen.getAttribute(side)]);
  const drop = (e) => {
    draw(e);
    const [from, to] = spanOf(first, share(e), Number(strip.dataset.start), Number(strip.dataset.end));
    const form = $("#span-form");
    $("[name=span_from]", form).value = from;
    $("[name=span_to]", form).value = to;
    form.dispatchEvent(new CustomEvent("aldea:span", { bubbles: true }));
  };
  const cancel = () => { for (const [side, at] of was) chosen.setAttribute(side, at); };
  followPointer({ move: draw, drop, cancel });
}

document.addEventListener("pointerdown", (event) => {
  const strip = event.target.closest("#span");
  if (!strip || event.button) return;
  event.preventDefault();
  drag(strip, event);
});

document.addEventListener("click", (event) => {
  const filling = event.target.closest("[data-fill]");
  const into = filling && $(filling.dataset.fill);
  if (into) {
    event.preventDefault();
    into.value = filling.value;
    into.dispatchEvent(new Event("input", { bubbles: true }));
    into.focus();
  }
  if (!event.target.closest("[data-whole]")) return;
  for (const field of $$("#span-form [name^=span_]")) if (field.type === "hidden") field.value = "";
});
