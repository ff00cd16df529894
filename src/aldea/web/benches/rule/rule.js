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

// A window drawn on a day of the week goes into the first empty row, in steps of five minutes; an
// edge that is dragged is written into its field; the week follows what is typed.
const week = $("#week");
const schedule = $("#schedule-form");
const DAYS = ["mon", "tue", "wed", "thu", "fri", "sat", "sun"];
const SUN = /^\s*(sunrise|sunset)\s*([+\-−]\s*\d+)?/i;
export const clock = (minutes) => {
  const at = Math.min(1440, Math.max(0, Math.round(minutes / 5) * 5));
  return `${String(Math.floor(at / 60)).padStart(2, "0")}:${String(at % 60).padStart(2, "0")}`;
};

// What an edge is typed as after it was dragged from a minute of the day to another.
export function dragged(text, from, to) {
  const sun = SUN.exec(text);
  if (!sun) return clock(to);
  const offset = Number((sun[2] ?? "0").replace("−", "-").replace(/\s/g, ""));
  const moved = Math.round((offset + to - from) / 5) * 5;
  const sign = moved < 0 ? "−" : "+";
  return moved ? `${sun[1].toLowerCase()} ${sign}${Math.abs(moved)}` : sun[1].toLowerCase();
}

const typed = (field) => field.dispatchEvent(new Event("input", { bubbles: true }));

// Follows a pointer over a day until it is let go; `done` gets the minute where it began and ended.
function follow(svg, event, move, done) {
  const box = svg.getBoundingClientRect();
  const minute = (x) => Math.min(1440, Math.max(0, (1440 * (x - box.left)) / box.width));
  const begun = minute(event.clientX);
  const moved = (e) => move(begun, minute(e.clientX));
  addEventListener("pointermove", moved);
  addEventListener("pointerup", (e) => {
    removeEventListener("pointermove", moved);
    done(begun, minute(e.clientX));
  }, { once: true });
}

function draw(day, svg, event) {
  const bar = document.createElementNS("http://www.w3.org/2000/svg", "rect");
  bar.setAttribute("y", 3); bar.setAttribute("height", 10); bar.setAttribute("class", "drawn");
  svg.append(bar);
  follow(svg, event, (from, to) => {
    bar.setAttribute("x", (100 * Math.min(from, to)) / 1440);
    bar.setAttribute("width", Math.max(0.2, (100 * Math.abs(to - from)) / 1440));
  }, (from, to) => {
    const start = $$("input[name$=_start]", schedule).filter((field) => !field.value).pop();
    if (Math.abs(to - from) < 5 || !start) { bar.remove(); return; }
    const prefix = start.name.split("_")[0];
    start.value = clock(Math.min(from, to));
    schedule.elements[`${prefix}_end`].value = clock(Math.max(from, to));
    const name = DAYS.find((key) => day.textContent.trim().toLowerCase().startsWith(key));
    for (const key of DAYS) schedule.elements[`${prefix}_${key}`].checked = key === name;
    typed(start);
    start.focus();
  });
}

function drag(grip, svg, event) {
  const field = schedule.elements[grip.dataset.grip];
  if (!field) return;
  const was = field.value;
  follow(svg, event, (from, to) => {
    grip.setAttribute("d", `M${(100 * to) / 1440} 0V16`);
    field.value = dragged(was, from, to);
  }, () => {
    typed(field);
    field.focus();
  });
}

if (week && schedule) {
  week.addEventListener("pointerdown", (event) => {
    const svg = event.target.closest("svg");
    const day = svg?.closest(".day[data-day]");
    if (!day || !$("#f-name:enabled", schedule)) return;
    event.preventDefault();
    const grip = event.target.closest("[data-grip]");
    if (grip) drag(grip, svg, event); else draw(day, svg, event);
  });
  schedule.addEventListener("input", () => {
    clearTimeout(waiting);
    waiting = setTimeout(() => {
      window.htmx.ajax("POST", week.dataset.week, { source: schedule, target: "#week", swap: "innerHTML" });
    }, LATE_MS);
  });
}

// A slab is dragged to another place of its level: the form of its move button goes so many places.
let carried = null;

const ofLevel = (slab) =>
  [...document.querySelectorAll(".slab[data-claim]")].filter(
    (other) => other.dataset.level === slab.dataset.level,
  );

document.addEventListener("dragstart", (event) => {
  carried = event.target.closest?.(".slab[draggable=true]") ?? null;
  carried?.classList.add("dragged");
  event.dataTransfer?.setData("text/plain", carried?.dataset.claim ?? "");
});

document.addEventListener("dragover", (event) => {
  const over = event.target.closest?.(".slab[data-claim]");
  if (carried && over && over.dataset.level === carried.dataset.level) event.preventDefault();
});

document.addEventListener("drop", (event) => {
  const over = event.target.closest?.(".slab[data-claim]");
  if (!carried || !over || over.dataset.level !== carried.dataset.level) return;
  event.preventDefault();
  const row = ofLevel(carried);
  const places = row.indexOf(over) - row.indexOf(carried);
  const button = carried.querySelector(`[data-move=${places < 0 ? "up" : "down"}]`);
  if (!places || !button) return;
  const field = document.createElement("input");
  field.type = "hidden";
  field.name = "places";
  field.value = String(Math.abs(places));
  button.form.append(field);
  button.form.requestSubmit(button);
});

document.addEventListener("dragend", () => {
  carried?.classList.remove("dragged");
  carried = null;
});
