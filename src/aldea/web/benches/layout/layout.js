// Lay out: chips dragged into another room, or moved by the arrows; one form carries both.

import { $, $$, followPointer } from "/static/scripts/dom.js";

const MOVED = "aldea:moved";
const STEPS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

// The room that lies ahead: sideways ones count three times as far as those straight on.
export function nearest(rooms, from, dx, dy) {
  const ahead = rooms.filter((r) => r.id !== from.id && (dx ? (r.x - from.x) * dx > 20 : (r.y - from.y) * dy > 20));
  const far = (r) => (dx ? Math.abs(r.x - from.x) + 3 * Math.abs(r.y - from.y) : Math.abs(r.y - from.y) + 3 * Math.abs(r.x - from.x));
  return ahead.sort((a, b) => far(a) - far(b))[0];
}

function begin(drawing) {
  const may = drawing.dataset.may === "yes";
  const rooms = $$(".room", drawing).map((g) => ({
    id: g.dataset.place, g, x: Number(g.dataset.x), y: Number(g.dataset.y),
  }));

  function move(part, place) {
    const form = document.createElement("form");
    form.method = "post";
    form.action = drawing.dataset.move;
    const token = JSON.parse(document.body.getAttribute("hx-headers"))["X-Form-Token"];
    for (const [name, value] of Object.entries({ form_token: token, version: drawing.dataset.version, part, place })) {
      const field = document.createElement("input");
      field.type = "hidden"; field.name = name; field.value = value;
      form.append(field);
    }
    document.body.append(form);
    sessionStorage.setItem(MOVED, part); // whoever moves a part goes on moving it, not to its form
    form.requestSubmit();
  }

  const roomAt = (x, y) => rooms.find((r) => {
    const box = r.g.querySelector(".floor").getBoundingClientRect();
    return x >= box.left && x <= box.right && y >= box.top && y <= box.bottom;
  });

  for (const chip of $$(".chip-part", drawing)) {
    const part = chip.dataset.part;
    chip.addEventListener("dragstart", (event) => event.preventDefault());
    if (!may || part.startsWith("place:")) continue;
    chip.addEventListener("keydown", (event) => {
      const step = STEPS[event.key];
      if (!step) return;
      event.preventDefault();
      event.stopPropagation();
      const box = chip.querySelector(".box").getBoundingClientRect();
      const from = rooms.find((r) => r.id === chip.dataset.place) || roomAt(box.left + 4, box.top + 4);
      const to = from && nearest(rooms, from, ...step);
      if (to) move(part, to.id);
    });
    chip.addEventListener("pointerdown", (event) => {
      if (event.button) return;
      const start = { x: event.clientX, y: event.clientY };
      const scale = drawing.viewBox.baseVal.width / drawing.getBoundingClientRect().width;
      let over = null, dragged = false;
      const putBack = () => {
        over?.g.classList.remove("over");
        chip.removeAttribute("transform");
        chip.classList.remove("dragged");
      };
      const follow = (e) => {
        const dx = (e.clientX - start.x) * scale, dy = (e.clientY - start.y) * scale;
        if (!dragged && Math.hypot(dx, dy) < 6) return;
        dragged = true;
        chip.classList.add("dragged");
        chip.setAttribute("transform", `translate(${dx} ${dy})`);
        over?.g.classList.remove("over");
        over = roomAt(e.clientX, e.clientY);
        over?.g.classList.add("over");
      };
      const drop = () => {
        if (!dragged) return;
        chip.addEventListener("click", (e) => e.preventDefault(), { once: true });
        if (over && over.id !== chip.dataset.place) move(part, over.id);
        else putBack();
      };
      followPointer({ move: follow, drop, cancel: putBack });
    });
  }

  const chosen = drawing.dataset.chosen && drawing.querySelector(`.chip-part[data-part="${CSS.escape(drawing.dataset.chosen)}"]`);
  if (chosen && sessionStorage.getItem(MOVED)) chosen.focus({ preventScroll: true });
  sessionStorage.removeItem(MOVED);
}

const drawing = $("#layout");
if (drawing) begin(drawing);
