// Nothing typed is lost: forms marked data-keep survive a reload until they are sent and taken.

import { $, $$ } from "./dom.js";
import { applyWhen } from "./choices.js";

const SENT = "aldea:sent";
const NEVER = ["hidden", "file", "password"];

export const keepKey = (form) => `aldea:${location.pathname}:${form.getAttribute("action")}:${form.dataset.keep}`;
const fieldsOf = (form) => $$("input, select, textarea", form).filter((f) => f.name && !NEVER.includes(f.type));
const valueOf = (field) => (field.type === "checkbox" ? field.checked : field.value);

export function keep(form) {
  const values = Object.fromEntries(fieldsOf(form).map((field) => [field.name, valueOf(field)]));
  sessionStorage.setItem(keepKey(form), JSON.stringify(values));
}

// What somebody changed before the scripts stood: the page came with another value.
function isEarly(field) {
  if (field.type === "checkbox" || field.type === "radio") return field.checked !== field.defaultChecked;
  if (!field.options) return field.value !== field.defaultValue.replace(/\r\n?/g, "\n");
  const came = [...field.options].findIndex((option) => option.defaultSelected);
  return field.selectedIndex !== Math.max(came, 0);
}

// Put back what was typed, and tell the page as if it were typed; a form with an answer keeps its own.
export function restore(form) {
  if ("keepShown" in form.dataset) { keep(form); return; }
  const values = JSON.parse(sessionStorage.getItem(keepKey(form)) ?? "{}");
  let changed = false;
  for (const field of fieldsOf(form)) {
    if (field.name in values && valueOf(field) === values[field.name]) continue;
    if (isEarly(field)) { changed = true; continue; }
    if (!(field.name in values)) continue;
    changed = true;
    if (field.type === "checkbox") field.checked = values[field.name];
    else field.value = values[field.name];
  }
  if (changed) { applyWhen(form); form.dispatchEvent(new Event("input", { bubbles: true })); }
}

export function sent(form) {
  keep(form);
  sessionStorage.setItem(SENT, keepKey(form));
}

// What is sent stays kept until another page has come: a lost answer loses nothing that was typed.
function forgetWhatArrived() {
  const arrived = performance.getEntriesByType("navigation")[0]?.type === "navigate";
  const key = sessionStorage.getItem(SENT);
  if (arrived && key) sessionStorage.removeItem(key);
  sessionStorage.removeItem(SENT);
}

export function start() {
  document.addEventListener("input", (event) => {
    const form = event.target.closest("form[data-keep]");
    if (form) keep(form);
  });
  document.addEventListener("click", (event) => {
    const forget = event.target.closest("[data-forget]");
    const form = forget && $(`#${forget.dataset.forget}`);
    if (form) sessionStorage.removeItem(keepKey(form));
  });
  forgetWhatArrived();
  // After htmx has taken the forms, so that what is restored is answered like what is typed.
  document.addEventListener("DOMContentLoaded", () => $$("form[data-keep]").forEach(restore));
}
