// Finding things on a page, writing numbers, and asking a server without overtaking oneself.

export const $ = (selector, root = document) => root.querySelector(selector);
export const $$ = (selector, root = document) => [...root.querySelectorAll(selector)];

// A number as the server writes it (core/base/figures.py): fixed places, a true minus.
export const figure = (value, places = 1) => value.toFixed(places).replace("-", "−");

// Follows a pointer that went down: `move` at each step, then `drop`, or `cancel` where a touch is taken away.
export function followPointer({ move, drop, cancel = () => {} }) {
  const followed = new AbortController();
  const end = (then) => (event) => { followed.abort(); then(event); };
  addEventListener("pointermove", move, { signal: followed.signal });
  addEventListener("pointerup", end(drop), { signal: followed.signal });
  addEventListener("pointercancel", end(cancel), { signal: followed.signal });
}

// One request under way, the newest wish waits: a page never lags behind by more than one answer.
export function latest(work) {
  let busy = false, waiting = false;
  return async function run() {
    if (busy) { waiting = true; return; }
    busy = true;
    try { await work(); } catch (error) { if (error.name !== "AbortError") console.warn(error.message); }
    busy = false;
    if (waiting) { waiting = false; run(); }
  };
}
