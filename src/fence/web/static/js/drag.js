/** Dragging a run: the server says of every slot whether it is clear, before the drop is final. */

import { asked, board, sendStep, stopNextClick, swapBoard } from "./page.js";

const FAR_ENOUGH = 6; // pixels; less is a click
let drag = null;

function slotAt(svg, event) {
  const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
  const { left, top, pitch, railPitch } = svg.dataset;
  const pickets = Number(svg.dataset.pickets);
  const column = Math.min(pickets - 1, Math.max(0, Math.floor((point.x - left) / pitch)));
  const rail = Math.min(512 / pickets - 1, Math.max(0, Math.floor((point.y - top) / railPitch)));
  return rail * pickets + column + 1;
}

document.addEventListener("pointerdown", (event) => {
  const run = event.target.closest("a.run");
  if (!run || event.button !== 0) return;
  const svg = run.closest("svg");
  const grab = slotAt(svg, event) - Number(run.dataset.start);
  drag = { run, svg, grab, slot: 0, x: event.clientX, y: event.clientY, moved: false, last: null };
});

document.addEventListener("dragstart", (event) => {
  if (event.target.closest && event.target.closest("a.run")) event.preventDefault();
});

document.addEventListener("pointermove", (event) => {
  if (!drag) return;
  if (!drag.moved && Math.hypot(event.clientX - drag.x, event.clientY - drag.y) < FAR_ENOUGH) return;
  drag.moved = true;
  drag.svg.classList.add("dragging");
  const slot = Math.min(512, Math.max(1, slotAt(drag.svg, event) - drag.grab));
  if (slot === drag.slot) return;
  drag.slot = slot;
  drag.last = tryAt(drag, slot);
});

async function answerTo(where) {
  const response = await fetch(asked(board().dataset.tryUrl, where), { headers: { "HX-Request": "true" } });
  return response.json();
}

async function tryAt(held, slot) {
  const { fixture, part } = held.run.dataset;
  const answer = await answerTo({ pick: fixture, part, u: held.svg.dataset.universe, slot });
  if (drag === held && held.slot === slot) show(held.svg, answer);
  return answer;
}

function show(svg, answer) {
  const ghost = svg.querySelector(".drag");
  ghost.setAttribute("d", answer.body);
  ghost.classList.toggle("not-clear", !answer.legal);
  const words = document.getElementById("drag-words");
  words.textContent = answer.words;
  words.classList.toggle("not-clear", !answer.legal);
}

document.addEventListener("pointerup", async (event) => {
  const held = drag;
  drag = null;
  if (!held || !held.moved) return;
  stopNextClick();
  held.svg.classList.remove("dragging");
  const card = document.elementFromPoint(event.clientX, event.clientY)?.closest(".card-u");
  const { fixture, part, start } = held.run.dataset;
  if (card) {
    const where = { pick: fixture, part, u: card.dataset.number, slot: start };
    await drop(where, await answerTo(where));
    return;
  }
  const answer = await held.last;
  if (held.slot === Number(start)) show(held.svg, { body: "", words: "", legal: true });
  else await drop({ pick: fixture, part, u: held.svg.dataset.universe, slot: held.slot }, answer);
});

/** Move it there, or show what is in the way. */
function drop(where, answer) {
  const { moveUrl, dropUrl } = board().dataset;
  if (answer.legal) return sendStep(moveUrl, { fixture: where.pick, part: where.part, address: answer.address });
  return swapBoard(asked(dropUrl, where));
}

document.addEventListener("pointercancel", () => {
  drag = null;
});
