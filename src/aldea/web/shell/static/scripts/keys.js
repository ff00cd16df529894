// Keys: the benches, the rail, what a page offers under a letter; never while somebody types.

import { $ } from "./dom.js";
import { fold, instant, ready, show, span, toChange, toEnd, toNow } from "./rail.js";
import { HOUR } from "./timeline.js";

const MINUTE = 60000;

export const typing = (element) => element.matches("input:not([type=checkbox]), select, textarea");

export function swapTheme() {
  const root = document.documentElement;
  root.dataset.theme = root.dataset.theme === "dark" ? "light" : "dark";
  localStorage.setItem("aldea-theme", root.dataset.theme);
}

const ANYWHERE = { "?": () => $("#keys")?.showModal(), d: swapTheme };
const ON_A_RAIL = {
  ",": () => toChange(-1), ".": () => toChange(1),
  "<": () => show(instant() - HOUR), ">": () => show(instant() + HOUR),
  "[": () => span(-1), "]": () => span(1),
  Home: toNow, r: fold,
};

const BY_BUTTON = {
  back: ",", on: ".", now: "Home", shorter: "[", longer: "]", fold: "r",
};
const SILENT = "aldea-letters";

const ON_THE_TRACK = (step) => {
  const back = () => show(instant() - step), on = () => show(instant() + step);
  return { ArrowLeft: back, ArrowDown: back, ArrowRight: on, ArrowUp: on, End: toEnd };
};

function actionOf(event, key) {
  if (ANYWHERE[key]) return ANYWHERE[key];
  if (!ready()) return undefined;
  const step = (event.shiftKey ? 10 : 1) * MINUTE;
  return ON_A_RAIL[key] ?? (event.target.id === "track" ? ON_THE_TRACK(step)[key] : undefined);
}

// A letter opens what asks; it never does what cannot be taken back.
function open(link) {
  link.click();
  const asks = link.closest("details[open]");
  if (asks) asks.querySelector("input:not([type=hidden]), button")?.focus();
}

// From within a field: what the form's own button does, or the page's K.
function keep(field) {
  const own = field.form && ($("[data-press=k]", field.form) ?? $(`[data-press=k][form="${field.form.id}"]`));
  const button = own ?? $("button.main", field.form ?? document) ?? $("[type=submit]", field.form ?? document);
  if (button && !button.disabled) button.click();
}

// What was opened is where a keyboard goes on; a finger would only lose its place on the page.
function toOpened() {
  const opened = $("[data-opened]");
  if (opened && !location.hash && document.activeElement === document.body) opened.focus({ preventScroll: true });
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
  if (event.key.length === 1 && localStorage.getItem(SILENT) === "off") return;
  if (event.ctrlKey || event.metaKey || event.altKey || typing(event.target) || $("#keys")?.open) return;
  const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
  const action = actionOf(event, key);
  const link = $(`[data-key="${CSS.escape(key)}"]`);
  const button = $(`[data-press="${CSS.escape(key)}"]`);
  if (action) { event.preventDefault(); action(); }
  else if (link) { event.preventDefault(); open(link); }
  else if (button) { event.preventDefault(); button.click(); }
}

export function start() {
  document.addEventListener("keydown", pressed);
  const letters = $("#letters");
  if (letters) {
    letters.checked = localStorage.getItem(SILENT) !== "off";
    letters.addEventListener("change", () => localStorage.setItem(SILENT, letters.checked ? "on" : "off"));
  }
  toOpened();
  document.addEventListener("click", (event) => {
    if (event.target.closest("[data-action=help]")) $("#keys").showModal();
    if (event.target.closest("[data-action=theme]")) swapTheme();
    const pressedOn = event.target.closest("[data-rail]");
    if (pressedOn && ready()) ON_A_RAIL[BY_BUTTON[pressedOn.dataset.rail]]();
    if (event.target.closest("[data-action=print]")) window.print();
    if (event.target.closest("[data-action=menu]")) menu(event.target.closest(".roof"));
  });
}
