/** What every module needs: the board, where a person is typing, pressing what has an id. */

const TEXT =
  "input:not([type=checkbox], [type=radio], [type=button], [type=submit]), "
  + "textarea, select, dialog, [contenteditable]";

/** The picture of a universe, where this page has one. */
export const board = () => document.getElementById("board");

/** Whether keys that are pressed there are typed into something. */
export const typing = (target) => target.closest(TEXT) !== null;

/** Press what has this id; whether there is such a thing on this page. */
export function press(id) {
  const target = document.getElementById(id);
  if (target && !target.disabled) target.click();
  return target !== null;
}

/** An address of Fence with these values in it. */
export function asked(url, values) {
  const made = new URL(url, location.href);
  for (const [name, value] of Object.entries(values)) made.searchParams.set(name, value);
  return made.pathname + made.search;
}

/** Show the board that an address gives. */
export function swapBoard(url) {
  return window.htmx.ajax("GET", url, { target: "#board", swap: "outerHTML" });
}

/** Send a step of the board, with the revision that it was drawn from. */
export function sendStep(url, values) {
  const here = board();
  return window.htmx.ajax("POST", url, {
    source: here,
    target: "#board",
    swap: "outerHTML",
    values: { revision: here.dataset.revision, u: here.dataset.u, also: here.dataset.also, ...values },
  });
}

/** After something was dragged, the click that the browser makes of it does nothing. */
export function stopNextClick() {
  const stop = (event) => {
    event.preventDefault();
    event.stopImmediatePropagation();
  };
  window.addEventListener("click", stop, { capture: true, once: true });
  setTimeout(() => window.removeEventListener("click", stop, { capture: true }), 50);
}
