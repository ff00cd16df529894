// Rule: the answer while typing, rows taken out, rules moved by keys, a week that is drawn on.

import { $, $$, followPointer } from "/static/scripts/dom.js";

const LATE_MS = 250;
let waiting = null;

// The answer is asked for a little after the last key, and once for what was opened anew.
function ask(form) {
  clearTimeout(waiting);
  waiting = setTimeout(() => {
    window.htmx.ajax("POST", form.dataset.answer, { source: form, target: "#rule-answer", swap: "innerHTML" });
  }, LATE_MS);
}

const form = $("#rule-form");
if (form) {
  form.addEventListener("input", () => ask(form));
  document.body.addEventListener("htmx:afterSwap", (event) => {
    if (event.detail.target.id === "rule-fields") ask(form);
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

// Alt with an arrow moves the focused rule inside its level, as its buttons do.
document.addEventListener("keydown", (event) => {
  const by = event.altKey && { ArrowUp: "up", ArrowDown: "down" }[event.key];
  const slab = by && event.target.closest?.(".slab[data-rule]");
  const button = slab && $(`[data-move=${by}]`, slab);
  if (!button) return;
  event.preventDefault();
  sessionStorage.setItem("rule-moved", slab.dataset.rule);
  button.click();
});
const moved = sessionStorage.getItem("rule-moved");
if (moved) {
  sessionStorage.removeItem("rule-moved");
  $(`.slab[data-rule="${CSS.escape(moved)}"] .what a`)?.focus();
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

// Follows a pointer over a day; `done` gets the minute where it began and ended.
function follow(svg, event, move, done, cancel) {
  const box = svg.getBoundingClientRect();
  const minute = (x) => Math.min(1440, Math.max(0, (1440 * (x - box.left)) / box.width));
  const begun = minute(event.clientX);
  followPointer({
    move: (e) => move(begun, minute(e.clientX)),
    drop: (e) => done(begun, minute(e.clientX)),
    cancel,
  });
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
  }, () => bar.remove());
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
  }, () => {
    field.value = was;
    typed(field);
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

// An edge in the overview is dragged, or moved by arrow keys, and saved once it rests.
const edgeForm = $("#edge-form");
const RESTS_MS = 700;
const AXIS_MIN = 2160;

function save(edge) {
  const fields = edgeForm.elements;
  fields.part_id.value = edge.dataset.part;
  fields.field.value = edge.dataset.field;
  fields.text.value = edge.dataset.text;
  sessionStorage.setItem("edge-moved", `${edge.dataset.part} ${edge.dataset.field}`);
  edgeForm.requestSubmit();
}

function moveEdge(edge, minute) {
  const at = Math.min(AXIS_MIN, Math.max(0, Math.round(minute / 5) * 5));
  const from = Number(edge.dataset.minute);
  edge.dataset.was ??= edge.dataset.text;
  const wrapped = at % 1440 === 0 && at > 0 ? "24:00" : clock(at % 1440);
  edge.dataset.text = SUN.test(edge.dataset.was) ? dragged(edge.dataset.was, from, at) : wrapped;
  edge.setAttribute("aria-valuenow", at);
  edge.setAttribute("aria-valuetext", edge.dataset.text);
  for (const path of $$("path", edge)) path.setAttribute("d", path.getAttribute("d").replace(/M[\d.]+/, `M${at / 3}`));
  return at;
}

if (edgeForm) {
  document.addEventListener("pointerdown", (event) => {
    const edge = event.target.closest?.(".edge");
    if (!edge) return;
    event.preventDefault();
    edge.focus();
    const box = edge.ownerSVGElement.getBoundingClientRect();
    const minute = (x) => (AXIS_MIN * (x - box.left)) / box.width;
    const from = minute(event.clientX), was = Number(edge.dataset.minute);
    let at = was;
    followPointer({
      move: (e) => { at = moveEdge(edge, was + minute(e.clientX) - from); },
      drop: () => { if (Math.abs(at - was) >= 5) save(edge); },
      cancel: () => moveEdge(edge, was),
    });
  });
  document.addEventListener("keydown", (event) => {
    const edge = event.target.closest?.(".edge");
    const by = edge && !event.altKey && !event.ctrlKey && { ArrowLeft: -5, ArrowRight: 5 }[event.key];
    if (!by) return;
    event.preventDefault();
    moveEdge(edge, Number(edge.getAttribute("aria-valuenow")) + by);
    clearTimeout(waiting);
    waiting = setTimeout(() => save(edge), RESTS_MS);
  });
  const kept = sessionStorage.getItem("edge-moved")?.split(" ");
  sessionStorage.removeItem("edge-moved");
  if (kept) $(`.edge[data-part="${CSS.escape(kept[0])}"][data-field="${CSS.escape(kept[1])}"]`)?.focus();
}

// A slab is dragged to another place of its level: the form of its move button goes so many places.
let carried = null;

const ofLevel = (slab) =>
  [...document.querySelectorAll(".slab[data-rule]")].filter(
    (other) => other.dataset.level === slab.dataset.level,
  );

document.addEventListener("dragstart", (event) => {
  carried = event.target.closest?.(".slab[draggable=true]") ?? null;
  carried?.classList.add("dragged");
  event.dataTransfer?.setData("text/plain", carried?.dataset.rule ?? "");
});

document.addEventListener("dragover", (event) => {
  const over = event.target.closest?.(".slab[data-rule]");
  if (carried && over && over.dataset.level === carried.dataset.level) event.preventDefault();
});

document.addEventListener("drop", (event) => {
  const over = event.target.closest?.(".slab[data-rule]");
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
