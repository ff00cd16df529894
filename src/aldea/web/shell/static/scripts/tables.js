// Long tables are sorted by a press on a heading, and filtered by what is typed above them.

import { $, $$ } from "./dom.js";

const LONG = 12; // rows from which a filter is worth its place

const plain = (text) => text.normalize("NFKD").replace(/[\u0300-\u036f]/g, "").toLowerCase();
const fieldOf = (cell) => $("input:not([type=hidden]), select", cell)?.value;
const wordsOf = (cell) => (cell ? (fieldOf(cell) ?? cell.textContent).trim() : "");

// The number a cell begins with; NaN for words. Thin gaps and a true minus are part of it.
export function numberOf(text) {
  const found = /^[±]?\s*([−-]?[\d\u202f]+(\.\d+)?)(?![\d:]|[.]\d)/.exec(text);
  return found ? Number(found[1].replace(/\u202f/g, "").replace("−", "-")) : NaN;
}

// Numbers before words, each in their order; what is empty comes last either way.
export function compared(a, b, down) {
  if (!a || !b) return (a ? 0 : 1) - (b ? 0 : 1);
  const [x, y] = [numberOf(a), numberOf(b)];
  const order = Number.isNaN(x) || Number.isNaN(y)
    ? (Number.isNaN(x) ? 1 : 0) - (Number.isNaN(y) ? 1 : 0) || a.localeCompare(b, "en", { numeric: true })
    : x - y;
  return down ? -order : order;
}

const rowsOf = (table) => $$("tbody > tr", table).filter((row) => row.cells.length > 1);

function sort(table, head) {
  const down = head.getAttribute("aria-sort") === "ascending";
  for (const other of $$("thead th", table)) other.removeAttribute("aria-sort");
  head.setAttribute("aria-sort", down ? "descending" : "ascending");
  const at = head.cellIndex;
  const rows = rowsOf(table).map((row) => [wordsOf(row.cells[at]), row]);
  rows.sort(([a], [b]) => compared(a, b, down));
  for (const [, row] of rows) row.parentElement.append(row);
}

function filter(table, text, note) {
  const words = plain(text).split(/\s+/).filter(Boolean);
  const rows = rowsOf(table);
  let shown = 0;
  for (const row of rows) {
    const whole = plain([...row.cells].map(wordsOf).join(" ") + row.textContent);
    row.hidden = !words.every((word) => whole.includes(word));
    shown += row.hidden ? 0 : 1;
  }
  note.textContent = words.length ? `${shown} of ${rows.length}` : "";
}

function prepare(table) {
  for (const head of $$("thead th", table)) {
    const text = head.textContent.trim();
    if (!text || $(".sr-only, input", head)) continue;
    const button = document.createElement("button");
    button.type = "button";
    button.className = "sort";
    button.append(...head.childNodes);
    button.addEventListener("click", () => sort(table, head));
    head.append(button);
  }
  if (rowsOf(table).length < LONG) return;
  const label = document.createElement("label");
  label.className = "filter fine";
  const field = document.createElement("input");
  field.type = "search";
  field.maxLength = 80;
  field.placeholder = "any words";
  const note = document.createElement("span");
  note.setAttribute("aria-live", "polite");
  label.append("Filter ", field, " ", note);
  field.addEventListener("input", (event) => { event.stopPropagation(); filter(table, field.value, note); });
  field.addEventListener("keydown", (event) => { if (event.key === "Enter") event.preventDefault(); });
  table.before(label);
}

export function start() {
  $$("table[data-sortable]").forEach(prepare);
}
