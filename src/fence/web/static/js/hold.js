/** The plan as it would be; while a key or the button is held, as it is. */

/** Show what is there, or again what would be. */
export function hold(on) {
  for (const pair of document.querySelectorAll("[data-now-then]")) {
    pair.classList.toggle("hold-now", on);
    pair.querySelector("[data-hold]").setAttribute("aria-pressed", on);
  }
}

document.addEventListener("pointerdown", (event) => event.target.closest("[data-hold]") && hold(true));
document.addEventListener("pointerup", () => hold(false));
document.addEventListener("keyup", () => hold(false));
