// Rule: the answer while typing, rows taken out, claims moved by keys, a week that is drawn on.

import { $, $$ } from "/static/scripts/dom.js";

const LATE_MS = 250;
let waiting = null;

// The answer is asked for a little after the last key, and once for what was opened anew.
function ask(form) {
  clearTimeout(waiting);
  waiting = setTimeout(() => {
    window.htmx.ajax("POST", form.dataset.answer, { source: form, target: "#rule-answer", swap: "innerHTML" });
  }, LATE_MS);
}

const form = $("#claim-form");
if (form) {
  form.addEventListener("input", () => ask(form));
  document.body.addEventListener("htmx:afterSwap", (event) => {
    if (event.detail.target.id === "claim-fields") ask(form);
  });
  form.addEventListener("click", (event) => {
    const gone = event.target.closest("[data-row-gone]");
    if (!gone) return;
    const row = gone.closest(".only-row");
    const field = document.createElement("input");
    field.type = "hidden"; field.name = `w${gone.dataset.rowGone}_gone`; field.value = "yes";
    form.append(field);
    row.remove();
    ask(form);
    $("#add-row")?.focus();
  });
  form.scrollIntoView({ block: "nearest" });
  $(".open select, .open input:not([type=hidden])")?.focus({ preventScroll: true });
}

// Alt with an arrow moves the focused claim inside its level, as its buttons do.
document.addEventListener("keydown", (event) => {
  const by = event.altKey && { ArrowUp: "up", ArrowDown: "down" }[event.key];
  const slab = by && event.target.closest?.(".slab[data-claim]");
  const button = slab && $(`[data-move=${by}]`, slab);
  if (!button) return;
  event.preventDefault();
  sessionStorage.setItem("rule-moved", slab.dataset.claim);
  button.click();
});
const moved = sessionStorage.getItem("rule-moved");
if (moved) {
  sessionStorage.removeItem("rule-moved");
  $(`.slab[data-claim="${CSS.escape(moved)}"] .what a`)?.focus();
}

// A window drawn on a day of the week goes into the first empty row, in steps of five minutes.
const week = $("#week");
const schedule = $("#schedule-form");
const DAYS = ["mon", "tue", "wed", "thu", "fri", "sat", "sun"];
export const clock = (minutes) => {
  const at = Math.min(1440, Math.max(0, Math.round(minutes / 5) * 5));
  return `${String(Math.floor(at / 60)).padStart(2, "0")}:${String(at % 60).padStart(2, "0")}`;
};

function draw(day, svg, event) {
  const box = svg.getBoundingClientRect();
  const minute = (x) => (1440 * (x - box.left)) / box.width;
  const begun = minute(event.clientX);
  const bar = document.createElementNS("http://www.w3.org/2000/svg", "rect");
  bar.setAttribute("y", 3); bar.setAttribute("height", 10); bar.setAttribute("class", "drawn");
  svg.append(bar);
  const follow = (e) => {
    const [a, b] = [begun, minute(e.clientX)].sort((p, q) => p - q);
    bar.setAttribute("x", (100 * a) / 1440);
    bar.setAttribute("width", Math.max(0.2, (100 * (b - a)) / 1440));
  };
  const done = (e) => {
    removeEventListener("pointermove", follow);
    const [a, b] = [begun, minute(e.clientX)].sort((p, q) => p - q);
    if (b - a < 5) { bar.remove(); return; }
    const start = $$("input[name$=_start]", schedule).filter((field) => !field.value).pop();
    if (!start) return;
    const prefix = start.name.split("_")[0];
    start.value = clock(a);
    schedule.elements[`${prefix}_end`].value = clock(b);
    const name = DAYS.find((key) => day.textContent.trim().toLowerCase().startsWith(key));
    for (const key of DAYS) schedule.elements[`${prefix}_${key}`].checked = key === name;
    start.dispatchEvent(new Event("input", { bubbles: true }));
    start.focus();
  };
  addEventListener("pointermove", follow);
  addEventListener("pointerup", done, { once: true });
}

if (week && schedule) {
  for (const day of $$(".day[data-day]", week)) {
    const svg = $("svg", day);
    svg.addEventListener("pointerdown", (event) => { event.preventDefault(); draw(day, svg, event); });
  }
}
