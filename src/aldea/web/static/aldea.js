// The rail's scrubber, keys, and what keeps typed things: for every bench.
(() => {
  "use strict";
  const $ = (selector, root = document) => root.querySelector(selector);
  const $$ = (selector, root = document) => [...root.querySelectorAll(selector)];
  const HOUR = 3600000;
  let rail = null;
  let at = 0;

  const clock = (t) =>
    new Intl.DateTimeFormat("en-GB", {
      timeZone: rail.zone, weekday: "short", day: "numeric", month: "short", hour: "2-digit", minute: "2-digit",
    }).format(t).replace(/,/g, "");

  const rowAt = (rows, t) => {
    let low = 0, high = rows.length - 1, found = null;
    while (low <= high) {
      const middle = (low + high) >> 1;
      if (rows[middle].s <= t) { found = rows[middle]; low = middle + 1; } else high = middle - 1;
    }
    return found;
  };

  // --- the scrubber
  function show(t, follow = true) {
    at = Math.round(Math.min(Math.max(t, rail.start), rail.end));
    const share = (at - rail.start) / (rail.end - rail.start);
    const track = $("#track");
    const x = `${share * 100}%`;
    $("#scrub").style.left = x;
    for (const line of $$("[data-scrub]")) line.style.left = x;
    $("#at-words").textContent = clock(at);
    const spoken = [];
    for (const lane of rail.lanes) {
      const row = rowAt(lane.rows, at);
      const box = $(`[data-lane="${lane.load}"]`);
      if (!row || !box) continue;
      for (const key of ["state", "holder", "why", "next"]) $(`[data-say="${key}"]`, box).textContent = row[key];
      box.dataset.on = row.on;
      spoken.push(`${lane.name} ${row.state}, ${row.holder}`);
    }
    track.setAttribute("aria-valuenow", at);
    track.setAttribute("aria-valuetext", `${clock(at)}: ${spoken.join("; ")}`);
    const field = $("[name=window_at]");
    if (field) field.value = at;
    if (follow) { followBench(); followValue(); }
  }

  function readRail() {
    const data = $("#rail-data");
    if (!data) return;
    const before = rail && rail.start;
    rail = JSON.parse(data.textContent);
    if (localStorage.getItem("aldea-rail") === "folded") $("#race").classList.add("folded");
    show(before === rail.start ? at : rail.at, before === null || before !== rail.start ? $("#value-at") !== null : true);
  }

  // One request under way, the newest wish waits: the bench never lags behind by more than one answer.
  function latest(work) {
    let busy = false, waiting = false;
    return async function run() {
      if (busy) { waiting = true; return; }
      busy = true;
      try { await work(); } catch (error) { if (error.name !== "AbortError") console.warn(error.message); }
      busy = false;
      if (waiting) { waiting = false; run(); }
    };
  }

  const windowQuery = () => `hours=${Math.round((rail.end - rail.start) / HOUR)}&end=${rail.end}&at=${at}`;

  const followBench = latest(async () => {
    const bench = $("[data-follow]");
    if (!bench) return;
    const url = bench.dataset.follow;
    const answer = await fetch(`${url}${url.includes("?") ? "&" : "?"}${windowQuery()}`, { headers: { "HX-Request": "true" } });
    if (answer.ok && answer.status === 200) bench.innerHTML = await answer.text();
  });

  const followValue = latest(async () => {
    const out = $("#value-at");
    if (!out) return;
    const answer = await fetch(`/api/v1/houses/${document.body.dataset.house}/at?plan=draft&t=${at}`);
    if (!answer.ok) return;
    const reading = (await answer.json()).readings.find((r) => r.probe === out.dataset.probe);
    out.textContent = reading ? `${reading.text} ${reading.unit}` : "no reading";
  });

  // --- spans: on Tune the form goes along, elsewhere the address is enough
  function go(hours, end, t) {
    const query = new URLSearchParams(location.search);
    for (const name of ["kept", "withdrawn", "part"]) query.delete(name);
    query.set("hours", hours); query.set("end", Math.round(end)); query.set("at", Math.round(t));
    location.search = query.toString();
  }

  function span(step) {
    const hours = (rail.end - rail.start) / HOUR;
    const list = rail.spans;
    let index = list.findIndex((h) => h >= hours - 0.01);
    if (index < 0) index = list.length - 1;
    const next = list[Math.min(Math.max(index + step, 0), list.length - 1)];
    if (next === list[index] && Math.abs(next - hours) < 0.01) return;
    go(next, Math.min(rail.now, Math.max(at + (next * HOUR) / 2, rail.start + next * HOUR * (step < 0 ? 0 : 0))), at);
  }

  function change(direction) {
    const lane = rail.lanes[0];
    if (!lane) return;
    const edges = lane.rows.filter((row, i) => i > 0 && row.on !== lane.rows[i - 1].on).map((row) => row.s);
    const found = direction > 0 ? edges.find((t) => t > at) : edges.reverse().find((t) => t < at);
    if (found !== undefined) show(found);
  }

  function moveTrack(event) {
    const box = $("#track").getBoundingClientRect();
    show(rail.start + ((event.clientX - box.left) / box.width) * (rail.end - rail.start));
  }

  document.addEventListener("pointerdown", (event) => {
    const track = event.target.closest("#track");
    if (!track || event.button) return;
    track.setPointerCapture(event.pointerId);
    moveTrack(event);
    track.onpointermove = moveTrack;
    track.onpointerup = track.onpointercancel = () => { track.onpointermove = null; };
  });

  // --- a span of a trace, chosen by dragging over it; minutes at the scrubber do the same by keys
  document.addEventListener("pointerdown", (event) => {
    const strip = event.target.closest("#span");
    if (!strip || event.button) return;
    event.preventDefault();
    const box = strip.getBoundingClientRect();
    const share = (e) => Math.min(Math.max((e.clientX - box.left) / box.width, 0), 1);
    const first = share(event);
    const chosen = $("[data-chosen]", strip);
    const width = strip.viewBox.baseVal.width;
    const draw = (e) => {
      const [a, b] = [first, share(e)].sort((x, y) => x - y);
      chosen.setAttribute("x", a * width);
      chosen.setAttribute("width", Math.max(1, (b - a) * width));
      return [a, b];
    };
    strip.setPointerCapture(event.pointerId);
    strip.onpointermove = draw;
    strip.onpointerup = (e) => {
      strip.onpointermove = strip.onpointerup = null;
      const [a, b] = draw(e);
      const [start, end] = [Number(strip.dataset.start), Number(strip.dataset.end)];
      const form = $("#span-form");
      $("[name=span_from]", form).value = Math.round(start + a * (end - start));
      $("[name=span_to]", form).value = Math.round(start + b * (end - start));
      form.dispatchEvent(new CustomEvent("aldea:span", { bubbles: true }));
    };
  });
  document.addEventListener("click", (event) => {
    const filling = event.target.closest("[data-fill]");
    const into = filling && $(filling.dataset.fill);
    if (into) {
      event.preventDefault();
      into.value = filling.value;
      into.dispatchEvent(new Event("input", { bubbles: true }));
      into.focus();
    }
    if (!event.target.closest("[data-forget=span]")) return;
    for (const field of $$("#span-form [name^=span_]")) field.value = "";
  });

  // --- keys
  const typing = (element) => element.matches("input:not([type=checkbox]), select, textarea");

  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || typing(event.target)) return;
    const dialog = $("#keys");
    if (dialog && dialog.open) return;
    const step = event.shiftKey ? 600000 : 60000;
    const actions = {
      ",": () => change(-1), ".": () => change(1),
      "<": () => show(at - HOUR), ">": () => show(at + HOUR),
      "[": () => span(-1), "]": () => span(1),
      Home: () => (rail.end === rail.now ? show(rail.now) : go((rail.end - rail.start) / HOUR, rail.now, rail.now)),
      "?": () => dialog && dialog.showModal(),
      d: swapTheme, r: fold,
    };
    if (event.target.id === "track") {
      actions.ArrowLeft = () => show(at - step);
      actions.ArrowRight = () => show(at + step);
      actions.ArrowDown = actions.ArrowLeft; actions.ArrowUp = actions.ArrowRight;
      actions.End = () => show(rail.end);
    }
    const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
    const link = $(`[data-key="${CSS.escape(key)}"]`);
    const button = $(`[data-press="${CSS.escape(key)}"]`);
    if (actions[key] && (rail || key === "d" || key === "?")) { event.preventDefault(); actions[key](); }
    else if (link) link.click();
    else if (button) { event.preventDefault(); button.click(); }
  });

  function swapTheme() {
    const root = document.documentElement;
    root.dataset.theme = root.dataset.theme === "dark" ? "light" : "dark";
    localStorage.setItem("aldea-theme", root.dataset.theme);
  }

  function fold() {
    const folded = $("#race").classList.toggle("folded");
    localStorage.setItem("aldea-rail", folded ? "folded" : "open");
  }

  document.addEventListener("click", (event) => {
    if (event.target.closest("[data-action=help]")) $("#keys").showModal();
    const forget = event.target.closest("[data-forget]");
    if (forget) sessionStorage.removeItem(keepKey($(`#${forget.dataset.forget}`)));
    const overview = event.target.closest("#overview");
    if (overview) {
      const box = overview.getBoundingClientRect();
      const start = Number(overview.dataset.start), end = Number(overview.dataset.end);
      const t = start + ((event.clientX - box.left) / box.width) * (end - start);
      const length = rail.end - rail.start;
      go(length / HOUR, Math.min(rail.now, t + length / 2), t);
    }
  });

  // --- what depends on a choice
  function applyWhen(root = document) {
    for (const part of $$("[data-when]", root)) {
      const [name, values] = part.dataset.when.split("=");
      const field = part.closest("form").elements[name];
      part.hidden = !("always" in part.dataset) && !values.split(",").includes(field.value);
    }
  }
  document.addEventListener("change", () => applyWhen());

  // --- nothing typed is lost: forms marked data-keep survive a reload until they are sent and taken
  const keepKey = (form) => `aldea:${location.pathname}:${form.getAttribute("action")}:${form.dataset.keep}`;
  const keptFields = (form) =>
    $$("input, select, textarea", form).filter((f) => f.name && f.type !== "hidden" && f.type !== "file" && f.type !== "password");

  function keep(form) {
    const values = {};
    for (const field of keptFields(form)) values[field.name] = field.type === "checkbox" ? field.checked : field.value;
    sessionStorage.setItem(keepKey(form), JSON.stringify(values));
  }

  function restore(form) {
    if ("keepShown" in form.dataset) { keep(form); return; }
    const text = sessionStorage.getItem(keepKey(form));
    if (!text) return;
    const values = JSON.parse(text);
    let changed = false;
    for (const field of keptFields(form)) {
      if (!(field.name in values)) continue;
      if (field.type === "checkbox") { changed = changed || field.checked !== values[field.name]; field.checked = values[field.name]; }
      else { changed = changed || field.value !== values[field.name]; field.value = values[field.name]; }
    }
    if (changed) { applyWhen(form); form.dispatchEvent(new Event("input", { bubbles: true })); form.dispatchEvent(new CustomEvent("aldea:restored")); }
  }

  document.addEventListener("input", (event) => {
    const form = event.target.closest("form[data-keep]");
    if (form) keep(form);
  });
  // What is sent stays kept until another page has come: a lost answer loses nothing that was typed.
  const SENT = "aldea:sent";
  const arrived = performance.getEntriesByType("navigation")[0]?.type === "navigate";
  if (arrived && sessionStorage.getItem(SENT)) sessionStorage.removeItem(sessionStorage.getItem(SENT));
  sessionStorage.removeItem(SENT);

  function sayLost(form) {
    let note = $(".lost", form);
    if (!note) {
      note = document.createElement("p");
      note.className = "mend lost";
      note.setAttribute("role", "alert");
      form.append(note);
    }
    note.textContent = "The server does not answer. What you typed stays here; press again when it does.";
  }

  document.addEventListener("submit", (event) => {
    const form = event.target;
    if (form.matches("form[data-keep]") && form.method === "post") {
      if (!form.dataset.answers) {
        // Ask first whether anybody answers: a browser's own error page would bury the form.
        event.preventDefault();
        const button = event.submitter;
        fetch("/static/mark.svg", { cache: "no-store", method: "HEAD" }).then(
          () => { form.dataset.answers = "1"; form.requestSubmit(button); },
          () => sayLost(form),
        );
        return;
      }
      delete form.dataset.answers;
      keep(form);
      sessionStorage.setItem(SENT, keepKey(form));
    }
    if (form.dataset.busy) {
      const button = $("button", form);
      button.disabled = true;
      button.textContent = form.dataset.busy;
    }
  });

  document.body.addEventListener("htmx:oobAfterSwap", (event) => { if (event.detail.target.id === "race") readRail(); });
  const reload = document.body.dataset.reloadS;
  if (reload) setTimeout(() => location.reload(), Number(reload) * 1000);

  window.aldea = { restore: () => $$("form[data-keep]").forEach(restore) };
  applyWhen();
  readRail();
  if (!$("#tune")) window.aldea.restore();
})();
