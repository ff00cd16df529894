// Start: the time zone of the browser, a drop area for the log, its first rows before it is sent.

import { $ } from "/static/scripts/dom.js";

const HEAD_BYTES = 65536;
const form = $("#log-form");
const area = $("[data-drop]");
const preview = $("#log-preview");

// A zone is chosen where the list has it; whether it has.
export function chooseZone(select, zone) {
  if (!select || ![...select.options].some((option) => option.value === zone)) return false;
  select.value = zone;
  return true;
}

const here = Intl.DateTimeFormat().resolvedOptions().timeZone;
if (chooseZone($("[data-zone-of-browser=yes]"), here)) {
  $("#zone-note").textContent = "from your browser, for every start below";
}

// The head of the file alone is shown to the server: nothing is stored.
async function look() {
  const file = form.elements.log.files[0];
  if (!file) { preview.replaceChildren(); return; }
  const sent = new FormData();
  for (const name of ["form_token", "log_quantity", "log_way", "log_place", "log_load", "log_problem"]) {
    sent.set(name, form.elements[name].value);
  }
  sent.set("time_zone", $("#f-time_zone").value);
  sent.set("size", file.size);
  sent.set("log", file.slice(0, HEAD_BYTES), file.name);
  try {
    const answer = await fetch(form.dataset.preview, { method: "POST", body: sent });
    if (answer.ok) preview.innerHTML = await answer.text();
  } catch { preview.textContent = "The server does not answer; the file stays chosen."; }
}

if (form && area) {
  form.addEventListener("change", look);
  $("#f-time_zone").addEventListener("change", look);
  for (const kind of ["dragover", "dragenter"]) {
    area.addEventListener(kind, (event) => { event.preventDefault(); area.classList.add("over"); });
  }
  area.addEventListener("dragleave", () => area.classList.remove("over"));
  area.addEventListener("drop", (event) => {
    event.preventDefault();
    area.classList.remove("over");
    if (!event.dataTransfer.files.length) return;
    form.elements.log.files = event.dataTransfer.files;
    look();
  });
  if (form.elements.log.files.length) look();
}
