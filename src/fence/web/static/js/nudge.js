/** Moving the picked fixture by keys: a burst of presses is added up and sent as one move, one step to undo. */

import { board, sendStep } from "./page.js";

const BURST = 250; // milliseconds without a press after which the burst is over
let waiting = 0;
let sending = false;
let later = null;

/** One press more. */
export function nudge(by) {
  waiting += by;
  clearTimeout(later);
  later = setTimeout(() => !sending && send(), BURST);
}

/** Send what waits: something else is about to be done. */
export function nudgeNow() {
  if (waiting === 0) return;
  clearTimeout(later);
  if (!sending) send();
}

async function send() {
  while (waiting !== 0) {
    const { nudgeUrl, fixture, part } = board().dataset;
    const by = waiting;
    waiting = 0;
    sending = true;
    try {
      await sendStep(nudgeUrl, { fixture, part, by });
    } finally {
      sending = false;
    }
  }
}

document.addEventListener("pointerdown", nudgeNow, true);
window.addEventListener("pagehide", nudgeNow);
