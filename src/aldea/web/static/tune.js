// The riders of the band rule: dragged, moved by keys, or typed in the form; one truth, the fields.
(() => {
  "use strict";
  const bench = document.querySelector("#tune");
  if (!bench) return;
  const form = document.querySelector("#tuning");
  const scale = Object.fromEntries(["yLow", "yHigh", "pLow", "pHigh", "u"].map((k) => [k, Number(bench.dataset[k])]));
  const unit = bench.dataset.unit;
  const pixel = (v) => scale.pLow + ((v - scale.yLow) / (scale.yHigh - scale.yLow)) * (scale.pHigh - scale.pLow);
  const value = (y) => scale.yLow + ((y - scale.pLow) / (scale.pHigh - scale.pLow)) * (scale.yHigh - scale.yLow);
  const perUnit = Math.abs(pixel(1) - pixel(0));
  const number = (text) => Number(text.trim().replace("−", "-").replace(",", "."));

  function draw(name) {
    const v = number(form.elements[name].value);
    if (!Number.isFinite(v) || form.elements[name].value.trim() === "") return;
    const rider = document.querySelector(`[data-mark=${name}]`);
    const y = Math.min(Math.max(pixel(v), scale.pHigh), scale.pLow);
    rider.setAttribute("transform", `translate(0 ${y})`);
    rider.querySelector("[data-figure]").textContent = v.toFixed(1).replace("-", "−");
    rider.setAttribute("aria-valuenow", v);
    rider.setAttribute("aria-valuetext", `${v.toFixed(1)} ${unit}`);
    const hair = document.querySelector(`[data-hair=${name}]`);
    hair.setAttribute("y1", y);
    hair.setAttribute("y2", y);
    const soft = document.querySelector(`[data-soft=${name}]`);
    soft.setAttribute("y", y - scale.u * perUnit);
    soft.setAttribute("height", 2 * scale.u * perUnit);
  }

  function set(name, v) {
    const rounded = (Math.round(v * 10) / 10).toString();
    if (form.elements[name].value === rounded) return;
    form.elements[name].value = rounded;
    draw(name);
    form.elements[name].dispatchEvent(new Event("input", { bubbles: true }));
  }

  for (const rider of document.querySelectorAll(".rider")) {
    const name = rider.dataset.mark;
    rider.addEventListener("pointerdown", (event) => {
      event.preventDefault();
      rider.focus();
      rider.setPointerCapture(event.pointerId);
      const top = document.querySelector("#rule").getBoundingClientRect().top;
      const grip = event.clientY - top - pixel(number(form.elements[name].value));
      rider.onpointermove = (move) => {
        const y = Math.min(Math.max(move.clientY - top - grip, scale.pHigh), scale.pLow);
        set(name, value(y));
      };
      rider.onpointerup = rider.onpointercancel = () => { rider.onpointermove = null; };
    });
    rider.addEventListener("keydown", (event) => {
      const step = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[event.key];
      if (!step) return;
      event.preventDefault();
      set(name, number(form.elements[name].value) + step * (event.shiftKey ? 1 : 0.1));
    });
  }

  form.addEventListener("input", () => { draw("on"); draw("off"); });
  draw("on");
  draw("off");
  // After htmx has taken the form, so that what is restored is answered like what is typed.
  document.addEventListener("DOMContentLoaded", () => window.aldea.restore());
})();
