/** A mark is made: it is kept on this phone first, then sent, and the walk goes on either way. */

import { carry } from "./carried.js";
import { isKept } from "./kept.js";
import { keepAndSend } from "./sending.js";
import { away, inReach, who, without } from "./waiting.js";

function newId() {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  return [...bytes].map((one) => one.toString(16).padStart(2, "0")).join("");
}

function fieldsOf(form, button) {
  const fields = [...new FormData(form)].filter(([, value]) => typeof value === "string");
  for (const one of form.querySelectorAll("input[type=hidden]:disabled")) fields.push([one.name, one.value]);
  if (button && button.name) fields.push([button.name, button.value]);
  return fields;
}

async function mark(form, url, words, fields) {
  if (form.dataset.sent) return;
  form.dataset.sent = "1";
  const made = { id: newId(), url, fields, words, at: Date.now(), who, show: away.dataset.show };
  let answer;
  try {
    answer = await keepAndSend(made);
  } catch {
    form.dataset.sent = "";
    problem("This browser keeps nothing (private window, or full): nothing is marked yet. Try again in reach.");
    return;
  }
  if (answer && answer.kept) {
    go(answer.again ? form.dataset.next || location.href : answer.to);
  } else if (answer && answer.status !== 401) {
    without(made.id);
    form.dataset.sent = "";
    problem(answer.problem);
  } else {
    await waitOn(form);
  }
}

/** Nothing came back: on to the next card where that is kept, else the form says that it waits. */
async function waitOn(form) {
  const next = form.dataset.next;
  if (next && next !== location.pathname + location.search && (await isKept(next))) {
    go(next);
    return;
  }
  form.classList.add("waits");
  form.dataset.sent = "";
  const button = form.querySelector("[type=submit]");
  if (button) button.disabled = true;
}

// going to where one is already loads the page again, as a form would
function go(to) {
  carry();
  const goal = new URL(to, location.href);
  if (goal.href === location.href) location.reload();
  else location.href = goal.href;
}

function problem(words) {
  const box = document.createElement("div");
  const line = document.createElement("p");
  box.className = "problem";
  box.setAttribute("role", "alert");
  line.textContent = words;
  box.append(line);
  document.getElementById("notice").replaceChildren(box);
  box.tabIndex = -1;
  box.focus();
}

/**
 * What it says, out of reach, where only the server could read it: the words of the mark, none where it says nothing.
 */
function reading(fields) {
  const values = new Map(fields);
  if (values.get("says")) return `says ${values.get("says")}`;
  if (values.has("on")) return `says switches ${values.get("on")} on`;
  return (values.get("lit") || "").replaceAll(",", "") ? "says segments" : "";
}

document.addEventListener(
  "submit",
  (event) => {
    const form = event.target;
    const saysNow = form.dataset.awayAction && !inReach();
    if (!away || !(form.dataset.later || saysNow)) return;
    event.preventDefault();
    event.stopPropagation();
    // the focus comes back to the button
    if (event.submitter?.id) sessionStorage.setItem("fence.sent-from", event.submitter.id);
    const fields = fieldsOf(form, event.submitter);
    if (!saysNow) {
      mark(form, form.getAttribute("action"), form.dataset.later, fields);
      return;
    }
    const words = reading(fields);
    if (words) mark(form, form.dataset.awayAction, `${form.dataset.laterSays}: ${words}`, fields);
    else problem("Type what it shows first.");
  },
  true,
);
