/** A step that takes seconds says so, and is not sent twice. */

document.addEventListener("submit", (event) => {
  const busy = event.target.dataset.busy;
  const button = event.submitter;
  if (!busy || !button) return;
  if (button.getAttribute("aria-disabled") === "true") event.preventDefault();
  button.setAttribute("aria-disabled", "true");
  button.textContent = busy;
});

window.addEventListener("pageshow", (event) => {
  if (event.persisted && document.querySelector("form[data-busy]")) location.reload();
});
