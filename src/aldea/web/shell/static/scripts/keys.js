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

// On a narrow screen the benches fold into a menu.
export function menu(roof) {
  const open = roof.classList.toggle("open");
  $("[data-action=menu]", roof).setAttribute("aria-expanded", open);
  if (open) $("nav a", roof).focus();
}

function pressed(event) {
  if (event.key === "Escape" && typing(event.target)) event.target.blur();
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
  document.addEventListener("click", (event) => {
    if (event.target.closest("[data-action=help]")) $("#keys").showModal();
    if (event.target.closest("[data-action=print]")) window.print();
    if (event.target.closest("[data-action=menu]")) menu(event.target.closest(".roof"));
  });
}
