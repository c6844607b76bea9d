/** The find box: arrows go through what is found, Enter takes it (the first, from the box). */

import { turnMenu } from "./menu.js";

const box = () => document.getElementById("find");

/** Go to the box; whether there is one. */
export function find() {
  if (box() && !box().checkVisibility()) turnMenu(true);
  box()?.focus();
  return box() !== null;
}

/** Put away what was found; whether anything was. */
export function forgetFound() {
  const found = document.getElementById("found");
  if (!found || !found.childElementCount) return false;
  found.replaceChildren();
  return true;
}

/** Take a key in the box or in what was found; whether it was one that means something there. */
export function moveInFound(event) {
  const links = [...document.querySelectorAll("#found a")];
  const at = links.indexOf(document.activeElement);
  if (event.key === "ArrowDown" || event.key === "ArrowUp") {
    const next = at + (event.key === "ArrowDown" ? 1 : -1);
    if (next < 0) box().focus();
    else links[Math.min(next, links.length - 1)]?.focus();
    event.preventDefault();
    return true;
  }
  if (event.key === "Enter" && at < 0 && links.length) {
    links[0].click();
    event.preventDefault();
    return true;
  }
  return event.key === "Enter";
}
