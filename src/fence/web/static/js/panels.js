/** The panel of findings, the list of keys, dialogs, what is dismissed, and printing. */

import { forgetFound } from "./find.js";

/** Open the panel of findings, of one severity or of all. */
export function openFindings(severity) {
  const panel = document.getElementById("findings");
  if (!panel) return;
  const url = new URL(panel.getAttribute("hx-get"), location.href);
  if (severity) url.searchParams.set("severity", severity);
  window.htmx.ajax("GET", url.pathname + url.search, { target: "#findings", swap: "innerHTML" });
  window.bootstrap.Offcanvas.getOrCreateInstance(panel).show();
}

/** Open the list of keys. */
export const openKeys = () => document.getElementById("keys").showModal();

document.addEventListener("click", (event) => {
  const target = event.target.closest("[data-panel], [data-keys], [data-dismiss], [data-open], [data-print]");
  if (!target) return;
  if ("print" in target.dataset) window.print();
  if ("panel" in target.dataset) {
    event.preventDefault();
    forgetFound();
    openFindings(target.dataset.panel);
  }
  if ("keys" in target.dataset) openKeys();
  if (target.dataset.dismiss) document.querySelector(target.dataset.dismiss).replaceChildren();
  if (target.dataset.open) {
    event.preventDefault();
    document.querySelector(target.dataset.open).showModal();
  }
});
