/** Picking several on the board: Shift with a click or with Enter adds a run to the picked ones, or takes it out. */

import { asked, board, swapBoard } from "./page.js";

/** Add a run, or take it out. */
export function pickOneMore(run) {
  const here = board();
  const picked = [here.dataset.fixture, ...here.dataset.also.split(",")].filter(Boolean);
  const id = run.dataset.fixture;
  const next = picked.includes(id) ? picked.filter((other) => other !== id) : [...picked, id];
  const [first, ...others] = next;
  swapBoard(asked(here.dataset.indexUrl, { u: here.dataset.u, pick: first || "", also: others.join(",") }));
}

document.addEventListener(
  "click",
  (event) => {
    const run = event.shiftKey && event.target.closest("a.run");
    if (!run || !board()) return;
    event.preventDefault();
    event.stopPropagation();
    pickOneMore(run);
  },
  true,
);
