/** The menu of a small screen: steps, find, theme and keys behind one button. */

const button = () => document.querySelector("[data-menu]");
const isOpen = () => document.body.classList.contains("menu-open");

/** Open or close it. */
export function turnMenu(open) {
  document.body.classList.toggle("menu-open", open);
  button()?.setAttribute("aria-expanded", String(open));
}

document.addEventListener("click", (event) => {
  if (event.target.closest("[data-menu]")) turnMenu(!isOpen());
});

document.addEventListener("keydown", (event) => {
  if (event.key !== "Escape" || !button() || !isOpen()) return;
  turnMenu(false);
  button().focus();
});
