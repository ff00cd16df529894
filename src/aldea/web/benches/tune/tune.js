// The riders of the band rule: dragged, moved by keys, or typed in the form; one truth, the fields.

import { $, $$, figure } from "/static/scripts/dom.js";

const THRESHOLDS = ["on", "off"];

export const number = (text) => Number(text.trim().replace("−", "-").replace(",", "."));

// The axis of the rule: a value's pixel, a pixel's value, pixels a unit.
export function scaleOf({ yLow, yHigh, pLow, pHigh }) {
  const perUnit = (pHigh - pLow) / (yHigh - yLow);
  return {
    pixel: (value) => pLow + (value - yLow) * perUnit,
    value: (pixel) => yLow + (pixel - pLow) / perUnit,
    inside: (pixel) => Math.min(Math.max(pixel, pHigh), pLow),
    perUnit: Math.abs(perUnit),
  };
}

// A threshold where a rider may stand: tenths, as they are typed.
export const rounded = (value) => (Math.round(value * 10) / 10).toString();

function begin(bench) {
  const form = $("#tuning");
  const facts = Object.fromEntries(["yLow", "yHigh", "pLow", "pHigh", "u"].map((k) => [k, Number(bench.dataset[k])]));
  const scale = scaleOf(facts);
  const soft = 2 * facts.u * scale.perUnit;

  function draw(name) {
    const text = form.elements[name].value;
    const value = number(text);
    if (!Number.isFinite(value) || text.trim() === "") return;
    const rider = $(`[data-threshold=${name}]`);
    const y = scale.inside(scale.pixel(value));
    rider.setAttribute("transform", `translate(0 ${y})`);
    $("[data-figure]", rider).textContent = figure(value);
    rider.setAttribute("aria-valuenow", value);
    rider.setAttribute("aria-valuetext", `${figure(value)} ${bench.dataset.unit}`);
    const hair = $(`[data-hair=${name}]`);
    hair.setAttribute("y1", y);
    hair.setAttribute("y2", y);
    const edge = $(`[data-soft=${name}]`);
    edge.setAttribute("y", y - soft / 2);
    edge.setAttribute("height", soft);
  }

  function set(name, value) {
    const field = form.elements[name];
    if (field.value === rounded(value)) return;
    field.value = rounded(value);
    draw(name);
    field.dispatchEvent(new Event("input", { bubbles: true }));
  }

  function take(rider, event) {
    const name = rider.dataset.threshold;
    event.preventDefault();
    rider.focus();
    rider.setPointerCapture(event.pointerId);
    const top = $("#rule").getBoundingClientRect().top;
    const grip = event.clientY - top - scale.pixel(number(form.elements[name].value));
    rider.onpointermove = (move) => set(name, scale.value(scale.inside(move.clientY - top - grip)));
    rider.onpointerup = rider.onpointercancel = () => { rider.onpointermove = null; };
  }

  for (const rider of $$(".rider")) {
    const name = rider.dataset.threshold;
    rider.addEventListener("pointerdown", (event) => take(rider, event));
    rider.addEventListener("keydown", (event) => {
      const step = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[event.key];
      if (!step) return;
      event.preventDefault();
      set(name, number(form.elements[name].value) + step * (event.shiftKey ? 1 : 0.1));
    });
  }
  form.addEventListener("input", () => THRESHOLDS.forEach(draw));
  THRESHOLDS.forEach(draw);
}

// What is read aloud while thresholds are moved: the verdict, once they have stood still.
const STILL_MS = 1500;

export function spokenLater(read, say, still = STILL_MS) {
  let waiting = 0;
  return () => {
    clearTimeout(waiting);
    waiting = setTimeout(() => say(read()), still);
  };
}

const bench = $("#tune");
if (bench) {
  begin(bench);
  const say = (words) => { $("#spoken").textContent = words; };
  const later = spokenLater(() => $("#verdict .say").textContent.replace(/\s+/g, " ").trim(), say);
  document.addEventListener("htmx:afterSettle", (event) => { if (event.target.closest?.("#verdict, #costs")) later(); });
}
