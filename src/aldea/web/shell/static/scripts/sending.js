// Sending a form: asked first whether anybody answers, and said while it takes its time.

import { $ } from "./dom.js";
import { sent } from "./keep.js";

const LOST = "The server does not answer. What you typed stays here; press again when it does.";

export function sayLost(form) {
  let note = $(".lost", form);
  if (!note) {
    note = document.createElement("p");
    note.className = "mend lost";
    note.setAttribute("role", "alert");
    form.append(note);
  }
  note.textContent = LOST;
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
  form.requestSubmit(button);
}

// What stands in another form of the page goes along, as it stands there now.
export function takeAlong(form) {
  const other = form.dataset.along && $(form.dataset.along);
  if (!other) return;
  for (const [name, value] of new FormData(other)) {
    let field = form.elements.namedItem(name);
    if (field && field.dataset?.along === undefined) continue; // the form's own field stands
    if (!field) {
      field = document.createElement("input");
      field.type = "hidden";
      field.name = name;
      field.dataset.along = "";
      form.append(field);
    }
    field.value = value;
  }
}

function submitted(event) {
  const form = event.target;
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
  document.addEventListener("submit", submitted);
}
