/** The marks that wait on this phone to be sent, and whether Fence is in reach. */

const WAITING = "fence.waiting";

/** The line that says so; only pages of a walk have it. */
export const away = document.getElementById("away");
/** Who is at this browser. */
export const who = document.body.dataset.who;
/** How long a mark may take to be answered before it counts as one that waited, in milliseconds. */
export const FRESH = 8000;

let reached = true;

/** Whether the last that was asked was answered. */
export const inReach = () => reached;

/** Say whether Fence is in reach. */
export function reach(now) {
  reached = now;
  if (away) document.body.classList.toggle("out", !now); // what a kept page said when it was fresh is not said again
  changed();
}

/** The marks, the oldest first. */
export function waiting() {
  try {
    return JSON.parse(localStorage.getItem(WAITING)) || [];
  } catch {
    return [];
  }
}

/** Keep these marks. Raises where this browser keeps nothing. */
export function keepWaiting(list) {
  localStorage.setItem(WAITING, JSON.stringify(list));
  changed();
}

/** Let one go. */
export const without = (id) => keepWaiting(waiting().filter((one) => one.id !== id));

/** Note what was answered to one. */
export function told(id, words) {
  keepWaiting(waiting().map((one) => (one.id === id ? { ...one, problem: words } : one)));
}

/** Whether a mark is somebody else's, who logged in at this phone before. */
export const isOthers = (mark) => mark.who !== who && document.getElementById("who-is") !== null;

function changed() {
  document.dispatchEvent(new Event("fence:waiting"));
}
