// Finding things on a page, and asking a server without overtaking oneself.

export const $ = (selector, root = document) => root.querySelector(selector);
export const $$ = (selector, root = document) => [...root.querySelectorAll(selector)];

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
