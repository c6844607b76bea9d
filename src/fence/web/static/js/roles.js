/** What this person's role does not take is put away; the server refuses it in any case. */

const patterns = (words) => JSON.parse(words || "[]").map((one) => new RegExp(one));
const limited = document.body.classList.contains("limited");
const openTo = patterns(document.body.dataset.openTo);
const closedTo = patterns(document.body.dataset.closedTo);
const among = (list, address) => list.some((one) => one.test(new URL(address, location.href).pathname));

function putAway() {
  if (!limited) return;
  for (const form of document.querySelectorAll("form[method=post]:not([data-may])")) {
    if (among(openTo, form.getAttribute("action") || "")) form.dataset.may = "";
    for (const button of form.querySelectorAll("[formaction]")) {
      button.hidden = !among(openTo, button.getAttribute("formaction"));
    }
  }
  for (const link of document.querySelectorAll("a[href]")) {
    if (link.origin === location.origin && among(closedTo, link.href)) link.classList.add("closed");
  }
}

putAway();
document.addEventListener("htmx:afterSettle", putAway);
