// Where a keyboard goes on when a page has come: the first refused field, what was opened, or what
// had the focus when the form was sent. A finger would only lose its place: nothing scrolls for it.

import { $ } from "./dom.js";

const HAD = "aldea:focus";
const page = () => location.pathname;

// How an element is found again on the page that comes after it: by id, or name and form.
export function pathOf(element) {
  if (!element || element === document.body) return null;
  if (element.id) return `#${CSS.escape(element.id)}`;
  const form = element.form?.id ? `#${CSS.escape(element.form.id)} ` : "";
  const label = element.getAttribute?.("aria-label");
  const quoted = (text) => `"${text.replace(/["\\]/g, "\\$&").replace(/\n/g, "\\a ")}"`;
  if (element.name) return `${form}[name=${quoted(element.name)}]`;
  return label ? `[aria-label=${quoted(label)}]` : null;
}

function remember() {
  const path = pathOf(document.activeElement);
  if (path) sessionStorage.setItem(HAD, JSON.stringify({ page: page(), path }));
}

function before() {
  const had = JSON.parse(sessionStorage.getItem(HAD) ?? "null");
  sessionStorage.removeItem(HAD);
  return had && had.page === page() ? $(had.path) : null;
}

function goOn() {
  const had = before();
  if (location.hash || document.activeElement !== document.body) return;
  const refused = $("main [aria-invalid=true]:not([disabled])");
  if (refused) {
    refused.focus();
    refused.scrollIntoView({ block: "nearest" });
    return;
  }
  const alert = $("main [role=alert]");
  if (alert) {
    alert.tabIndex = -1;
    alert.focus();
    return;
  }
  ($("[data-opened]") ?? had)?.focus({ preventScroll: true });
}

export function start() {
  document.addEventListener("submit", remember);
  goOn();
}
