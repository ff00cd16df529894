// The rail's scrubber: one instant for the whole page; the bench and its readings follow it.

import { $, $$, latest } from "./dom.js";
import { HOUR, changeFrom, clockOf, otherSpan, rowAt } from "./timeline.js";

const PASSING = ["kept", "withdrawn", "part"]; // what an address says once

let rail = null, at = 0, clock = String;

export const ready = () => rail !== null;
export const instant = () => at;
export const isAtNow = () => rail.end === rail.now;
export const windowQuery = () => `hours=${Math.round((rail.end - rail.start) / HOUR)}&end=${rail.end}&at=${at}`;

export function show(t, follow = true) {
  at = Math.round(Math.min(Math.max(t, rail.start), rail.end));
  const x = `${((at - rail.start) / (rail.end - rail.start)) * 100}%`;
  $("#scrub").style.left = x;
  for (const line of $$("[data-scrub]")) line.style.left = x;
  $("#at-words").textContent = clock(at);
  $("#track").setAttribute("aria-valuenow", at);
  if (rail.asked) askWords();
  else tellAll((lane) => rowAt(lane.rows, at));
  const field = $("[name=window_at]");
  if (field) field.value = at;
  if (follow) { followBench(); followValue(); }
}

// Every load's line beside the lanes, and the sentence for who hears it.
function tellAll(wordsOf) {
  const spoken = rail.lanes.map((lane) => tell(lane, wordsOf(lane))).filter(Boolean);
  $("#track").setAttribute("aria-valuetext", `${clock(at)}: ${spoken.join("; ")}`);
}

function tell(lane, words) {
  const box = $(`[data-lane="${lane.load}"]`);
  if (!words || !box) return "";
  for (const place of $$("[data-say]", box)) place.textContent = words[place.dataset.say];
  box.dataset.on = words.on;
  return `${lane.name} ${words.state}, ${words.decided_by}`;
}

// A long window brings no words: they are asked for, of the instant that is shown.
const askWords = latest(async () => {
  const answer = await fetch(`/api/v1/houses/${document.body.dataset.house}/states?t=${at}`);
  if (!answer.ok) return;
  const states = await answer.json();
  tellAll((lane) => states.find((state) => state.load === lane.load));
});

export function readRail() {
  const data = $("#rail-data");
  if (!data) return;
  const before = rail && rail.start;
  rail = JSON.parse(data.textContent);
  clock = clockOf(rail.clock);
  if (localStorage.getItem("aldea-rail") === "folded") $("#rail").classList.add("folded");
  const stays = before === rail.start;
  show(stays ? at : rail.at, stays || $("#value-at") !== null);
}

const followBench = latest(async () => {
  const bench = $("[data-follow]");
  if (!bench) return;
  const url = bench.dataset.follow;
  const address = `${url}${url.includes("?") ? "&" : "?"}${windowQuery()}`;
  const answer = await fetch(address, { headers: { "HX-Request": "true" } });
  if (answer.status === 200) bench.innerHTML = await answer.text();
});

const followValue = latest(async () => {
  const out = $("#value-at");
  if (!out) return;
  const answer = await fetch(`/api/v1/houses/${document.body.dataset.house}/at?plan=draft&t=${at}`);
  if (!answer.ok) return;
  const reading = (await answer.json()).readings.find((r) => r.probe === out.dataset.probe);
  out.textContent = reading ? `${reading.text} ${reading.unit}` : "no reading";
});

export function go(hours, end, t) {
  const query = new URLSearchParams(location.search);
  for (const name of PASSING) query.delete(name);
  query.set("hours", hours); query.set("end", Math.round(end)); query.set("at", Math.round(t));
  location.search = query.toString();
}

export function span(step) {
  const other = otherSpan(rail, at, step);
  if (other) go(other.hours, other.end, at);
}

export function toChange(direction) {
  const focused = $("[data-focus-load]")?.dataset.focusLoad;
  const lanes = rail.lanes.filter((lane) => !focused || lane.load === focused);
  const found = lanes.map((lane) => changeFrom(lane.rows, at, direction)).filter((t) => t !== undefined);
  if (found.length) show(direction > 0 ? Math.min(...found) : Math.max(...found));
}

export const toNow = () =>
  (isAtNow() ? show(rail.now) : go((rail.end - rail.start) / HOUR, rail.now, rail.now));
export const toEnd = () => show(rail.end);

export function fold() {
  const folded = $("#rail").classList.toggle("folded");
  localStorage.setItem("aldea-rail", folded ? "folded" : "open");
}

function moveTrack(event) {
  const box = $("#track").getBoundingClientRect();
  show(rail.start + ((event.clientX - box.left) / box.width) * (rail.end - rail.start));
}

function toOverview(overview, event) {
  const box = overview.getBoundingClientRect();
  const start = Number(overview.dataset.start), end = Number(overview.dataset.end);
  const t = start + ((event.clientX - box.left) / box.width) * (end - start);
  const length = rail.end - rail.start;
  go(length / HOUR, Math.min(rail.now, t + length / 2), t);
}

export function start() {
  document.addEventListener("pointerdown", (event) => {
    const track = event.target.closest("#track");
    if (!track || event.button) return;
    track.setPointerCapture(event.pointerId);
    moveTrack(event);
    track.onpointermove = moveTrack;
    track.onpointerup = track.onpointercancel = () => { track.onpointermove = null; };
  });
  document.addEventListener("click", (event) => {
    const overview = event.target.closest("#overview");
    if (overview) toOverview(overview, event);
  });
  for (const swapped of ["htmx:oobAfterSwap", "htmx:afterSwap"])
    document.body.addEventListener(swapped, (event) => { if (event.detail.target.id === "rail") readRail(); });
  readRail();
}
