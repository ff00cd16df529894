// The timeline's scrubber: one instant for the whole page; the bench and its readings follow it.

import { $, $$, latest } from "./dom.js";
import { HOUR, changeFrom, clockOf, otherSpan, rowAt } from "./instants.js";

const PASSING = ["kept", "withdrawn", "part"]; // what an address says once

let timeline = null, at = 0, clock = String;

export const ready = () => timeline !== null;
export const instant = () => at;
export const isAtNow = () => timeline.end === timeline.now;
export const windowQuery = () => `hours=${Math.round((timeline.end - timeline.start) / HOUR)}&end=${timeline.end}&at=${at}`;

// The address follows the scrubber, so that it is a link to the moment that is shown.
const ADDRESS_MS = 400;
let writing = null;

function writeAddress() {
  clearTimeout(writing);
  writing = setTimeout(() => {
    const query = new URLSearchParams(location.search);
    for (const [name, value] of new URLSearchParams(windowQuery())) query.set(name, value);
    history.replaceState(history.state, "", `${location.pathname}?${query}${location.hash}`);
  }, ADDRESS_MS);
}

export function show(t, follow = true) {
  const before = at;
  at = Math.round(Math.min(Math.max(t, timeline.start), timeline.end));
  const x = `${((at - timeline.start) / (timeline.end - timeline.start)) * 100}%`;
  $("#scrub").style.left = x;
  for (const line of $$("[data-scrub]")) line.style.left = x;
  $("#at-words").textContent = clock(at);
  $("#track").setAttribute("aria-valuenow", at);
  if (timeline.asked) askWords();
  else tellAll((lane) => rowAt(lane.rows, at));
  const field = $("[name=window_at]");
  if (field) field.value = at;
  if (follow) { followBench(); followValue(); }
  if (follow && before && before !== at) writeAddress();
}

// Every load's line beside the lanes, and the sentence for who hears it.
function tellAll(wordsOf) {
  const spoken = timeline.lanes.map((lane) => tell(lane, wordsOf(lane))).filter(Boolean);
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

export function readTimeline() {
  const data = $("#timeline-data");
  if (!data) return;
  const before = timeline && timeline.start;
  timeline = JSON.parse(data.textContent);
  clock = clockOf(timeline.clock);
  if (localStorage.getItem("aldea-timeline") === "folded") $("#timeline").classList.add("folded");
  const stays = before === timeline.start;
  show(stays ? at : timeline.at, stays || $("#value-at") !== null);
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
  const other = otherSpan(timeline, at, step);
  if (other) go(other.hours, other.end, at);
}

export function toChange(direction) {
  const focused = $("[data-focus-load]")?.dataset.focusLoad;
  const lanes = timeline.lanes.filter((lane) => !focused || lane.load === focused);
  const found = lanes.map((lane) => changeFrom(lane.rows, at, direction)).filter((t) => t !== undefined);
  if (found.length) show(direction > 0 ? Math.min(...found) : Math.max(...found));
}

export const toNow = () =>
  (isAtNow() ? show(timeline.now) : go((timeline.end - timeline.start) / HOUR, timeline.now, timeline.now));
export const toEnd = () => show(timeline.end);

export function fold() {
  const folded = $("#timeline").classList.toggle("folded");
  localStorage.setItem("aldea-timeline", folded ? "folded" : "open");
}

function moveTrack(event) {
  const box = $("#track").getBoundingClientRect();
  show(timeline.start + ((event.clientX - box.left) / box.width) * (timeline.end - timeline.start));
}

function toOverview(overview, event) {
  const box = overview.getBoundingClientRect();
  const start = Number(overview.dataset.start), end = Number(overview.dataset.end);
  const t = start + ((event.clientX - box.left) / box.width) * (end - start);
  const length = timeline.end - timeline.start;
  go(length / HOUR, Math.min(timeline.now, t + length / 2), t);
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
    document.body.addEventListener(swapped, (event) => { if (event.detail.target.id === "timeline") readTimeline(); });
  readTimeline();
}
