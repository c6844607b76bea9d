/** The focus never falls to the page: it goes to what comes next, else to where it was. What is picked is in sight. */

import { board, typing } from "./page.js";
import { pickets } from "./rails.js";

let lastRun = "";

document.addEventListener("htmx:beforeSwap", () => {
  lastRun = document.querySelector("a.run.picked")?.id || lastRun;
});

document.addEventListener("htmx:afterSettle", () => {
  const current = document.querySelector(".card-u.current");
  if (current) {
    const list = current.parentElement.parentElement;
    list.scrollTop = current.offsetTop - list.offsetTop - 4;
  }
  if (document.activeElement === document.body) refocus();
  showAbove();
});

function refocus() {
  const here = board() || document;
  const next =
    document.querySelector("#notice .problem button")
    || here.querySelector("#apply:not([disabled])")
    || here.querySelector("a.run.picked")
    || (lastRun && document.getElementById(lastRun))
    || document.getElementById("work");
  if (next) next.focus({ preventScroll: next.id !== "apply" || pickets === "32" });
}

// on a phone the selected fixture's facts come up from below: its run is shown above them
function showAbove() {
  const facts = document.querySelector(".inspector.from-below");
  const run = document.querySelector("a.run.picked, a.post.picked");
  if (!facts || !run || getComputedStyle(facts).position !== "fixed") return;
  const room = facts.getBoundingClientRect().top;
  const box = run.getBoundingClientRect();
  if (box.top < 0 || box.bottom > room) window.scrollBy(0, box.top - room / 3);
}

window.addEventListener("load", showAbove);

// after a form is sent the focus is where it was, or at what was refused

const SENT = "fence.sent-from";

document.addEventListener("submit", (event) => {
  const from = event.submitter?.id || document.activeElement?.id;
  if (from) sessionStorage.setItem(SENT, from);
});

const from = document.getElementById(sessionStorage.getItem(SENT) || "");
sessionStorage.removeItem(SENT);
const refused = document.querySelector("main .is-invalid, main .problem");
const begun = document.activeElement !== document.body && !document.activeElement.matches("[autofocus]");
if (begun) {
  // the page stood before this script did, and somebody is at work in it: the focus is left there
} else if (refused) {
  if (!refused.matches("input, select, textarea")) refused.tabIndex = -1;
  refused.focus();
} else if (from && !from.disabled && !typing(from)) {
  from.focus({ preventScroll: true });
} else if (from) {
  refocus();
}
