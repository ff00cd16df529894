// Keys: the benches, the timeline, what a page offers under a letter; never while somebody types.

import { $, $$ } from "./dom.js";
import { fold, instant, ready, show, span, toChange, toEnd, toNow } from "./timeline.js";
import { HOUR } from "./instants.js";

const MINUTE = 60000;

export const typing = (element) => element.matches("input:not([type=checkbox]), select, textarea");

export function swapTheme() {
  const root = document.documentElement;
  root.dataset.theme = root.dataset.theme === "dark" ? "light" : "dark";
  localStorage.setItem("aldea-theme", root.dataset.theme);
}

function search() {
  const dialog = $("#search");
  if (!dialog || dialog.open) return;
  dialog.showModal();
  $("input", dialog).select();
}

// In the list of what was found arrows go from line to line; Enter in the field takes the first.
function inSearch(event) {
  const dialog = event.target.closest?.("#search");
  const by = dialog && { ArrowDown: 1, ArrowUp: -1 }[event.key];
  if (!dialog) return;
  const stops = [$("input", dialog), ...$$("#search-found a", dialog)];
  if (by) {
    event.preventDefault();
    const at = stops.indexOf(document.activeElement);
    stops[Math.min(stops.length - 1, Math.max(0, at + by))].focus();
  } else if (event.key === "Enter" && event.target === stops[0] && stops[1]) {
    event.preventDefault();
    stops[1].click();
  }
}

const ANYWHERE = { "?": () => $("#keys")?.showModal(), "/": search, d: swapTheme };
const ON_A_TIMELINE = {
  ",": () => toChange(-1), ".": () => toChange(1),
  "<": () => show(instant() - HOUR), ">": () => show(instant() + HOUR),
  "[": () => span(-1), "]": () => span(1),
  Home: toNow, r: fold,
};

const BY_BUTTON = {
  back: ",", on: ".", now: "Home", shorter: "[", longer: "]", fold: "r",
};
const LETTERS = "aldea-letters";

const ON_THE_TRACK = (step) => {
  const back = () => show(instant() - step), on = () => show(instant() + step);
  return { ArrowLeft: back, ArrowDown: back, ArrowRight: on, ArrowUp: on, End: toEnd };
};

function actionOf(event, key) {
  if (ANYWHERE[key]) return ANYWHERE[key];
  if (!ready()) return undefined;
  const step = (event.shiftKey ? 10 : 1) * MINUTE;
  return ON_A_TIMELINE[key] ?? (event.target.id === "track" ? ON_THE_TRACK(step)[key] : undefined);
}

// A letter opens what asks; it never does what cannot be taken back.
function open(link) {
  link.click();
  const asks = link.closest("details[open]");
  if (asks) asks.querySelector("input:not([type=hidden]), select, button, a[href]")?.focus();
}

// From within a field: what the form's own button does, or the page's K.
function keep(field) {
  const own = field.form && ($("[data-press=k]", field.form) ?? $(`[data-press=k][form="${field.form.id}"]`));
  const button = own ?? $("button.main", field.form ?? document) ?? $("[type=submit]", field.form ?? document);
  if (button && !button.disabled) button.click();
}

// On a narrow screen the benches fold into a menu.
export function menu(roof) {
  const open = roof.classList.toggle("open");
  $("[data-action=menu]", roof).setAttribute("aria-expanded", open);
  if (open) $("nav a", roof).focus();
}

function pressed(event) {
  if (event.key === "Escape" && typing(event.target)) event.target.blur();
  if ((event.ctrlKey || event.metaKey) && event.key === "Enter" && typing(event.target)) {
    event.preventDefault();
    keep(event.target);
    return;
  }
  if (event.key.length === 1 && localStorage.getItem(LETTERS) === "off") return;
  if (event.ctrlKey || event.metaKey || event.altKey || typing(event.target) || $("dialog[open]")) return;
  const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
  const action = actionOf(event, key);
  const link = $(`[data-key="${CSS.escape(key)}"]`);
  const button = $(`[data-press="${CSS.escape(key)}"]`);
  if (action) { event.preventDefault(); action(); }
  else if (link) { event.preventDefault(); open(link); }
  else if (button) { event.preventDefault(); open(button); }
}

export function start() {
  document.addEventListener("keydown", pressed);
  document.addEventListener("keydown", inSearch);
  const letters = $("#letters");
  if (letters) {
    letters.checked = localStorage.getItem(LETTERS) !== "off";
    letters.addEventListener("change", () => localStorage.setItem(LETTERS, letters.checked ? "on" : "off"));
  }
  document.addEventListener("click", (event) => {
    if (event.target.closest("[data-action=help]")) $("#keys").showModal();
    if (event.target.closest("[data-action=theme]")) swapTheme();
    if (event.target.closest("[data-action=search]")) search();
    if (event.target.closest("[data-action=close-search]")) $("#search").close();
    const pressedOn = event.target.closest("[data-timeline]");
    if (pressedOn && ready()) ON_A_TIMELINE[BY_BUTTON[pressedOn.dataset.timeline]]();
    if (event.target.closest("[data-action=print]")) window.print();
    if (event.target.closest("[data-action=menu]")) menu(event.target.closest(".roof"));
  });
}
