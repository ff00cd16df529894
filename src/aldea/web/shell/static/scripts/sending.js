// Sending a form: asked first whether anybody answers, and said while it takes its time.

import { $, $$ } from "./dom.js";
import { sent } from "./keep.js";

const SENTENCES = {
  500: "Aldea made a mistake: these figures are older than what is typed. What you typed stays here.",
  503: "The database does not answer: these figures are older than what is typed. What you typed stays here.",
};
const LOST = "The server does not answer. What you typed stays here; press again when it does.";

export function sayLost(form, text = LOST) {
  let note = $(".lost", form);
  if (!note) {
    note = document.createElement("p");
    note.className = "fix lost";
    note.setAttribute("role", "alert");
    form.append(note);
  }
  note.textContent = text;
}

// An answer while typing that is none of the bench's own: said where it was asked for, until the next.
function sayFailed(event) {
  const place = event.detail.elt.closest("form, section, main") ?? document.body;
  const status = event.detail.xhr?.status;
  if (status && status < 500) return;
  sayLost(place, status ? SENTENCES[status] ?? SENTENCES[500] : LOST);
}

function takeBack() {
  for (const note of document.querySelectorAll(".lost")) note.remove();
}

// An answer while typing may put another button in the place of the one that was pressed.
function asItStands(form, button) {
  if (!button || button.form === form) return button;
  const says = (one) => ["name", "value", "formaction"].map((name) => one.getAttribute(name)).join();
  return [...form.elements].find((one) => one.type === "submit" && says(one) === says(button));
}

// A browser's own error page would bury the form: the form goes only where somebody answers.
async function sendIfAnswered(form, button) {
  try {
    await fetch("/static/mark.svg", { cache: "no-store", method: "HEAD" });
  } catch {
    sayLost(form);
    return;
  }
  form.dataset.answers = "1";
  form.requestSubmit(asItStands(form, button));
}

// What stands in another form of the page goes along, as it stands there now.
export function takeAlong(form) {
  const other = form.dataset.along && $(form.dataset.along);
  if (!other) return;
  for (const field of $$("input[data-along]", form)) field.remove(); // those of a try that did not arrive
  const own = new Set([...form.elements].map((field) => field.name)); // the form's own fields stand
  for (const [name, value] of new FormData(other)) {
    if (own.has(name)) continue;
    const field = document.createElement("input");
    field.type = "hidden";
    field.name = name;
    field.value = value;
    field.dataset.along = "";
    form.append(field);
  }
}

function submitted(event) {
  const form = event.target;
  if (event.submitter?.dataset.plain !== undefined) return; // a file is taken away, nothing is sent off
  takeAlong(form);
  if (form.matches("form[data-keep]") && form.method === "post") {
    if (!form.dataset.answers) {
      event.preventDefault();
      sendIfAnswered(form, event.submitter);
      return;
    }
    delete form.dataset.answers;
    sent(form);
  }
  if (form.dataset.busy) {
    const button = $("button", form);
    button.disabled = true;
    button.textContent = form.dataset.busy;
  }
}

export function start() {
  document.body.addEventListener("htmx:responseError", sayFailed);
  document.body.addEventListener("htmx:sendError", sayFailed);
  document.body.addEventListener("htmx:afterOnLoad", (event) => event.detail.successful && takeBack());
  document.addEventListener("submit", submitted);
}
