/** What is said of being out of reach, and of the marks that wait. */

import { behind } from "./kept.js";
import { away, inReach, isOthers, waiting, without } from "./waiting.js";

const GO_ON = "Go on marking: it is kept on this phone and sent when the network is back.";
const STAY =
  "What you mark is kept on this phone. Do not leave this page: without HTTPS a phone cannot keep the others.";

function headline(count, many) {
  if (inReach()) return `${many} to be sent.`;
  return count ? `Out of reach: ${many}.` : "Out of reach.";
}

function advice(count) {
  if (inReach()) return "";
  if (!behind()) return STAY;
  return count ? "" : GO_ON;
}

function show() {
  const list = waiting();
  const many = list.length === 1 ? "1 mark waits" : `${list.length} marks wait`;
  away.hidden = inReach() && !list.length;
  away.querySelector("[data-away-words]").textContent = headline(list.length, many);
  away.querySelector("[data-away-state]").hidden = inReach();
  away.querySelector("[data-away-kept]").textContent = advice(list.length);
  const details = away.querySelector("details");
  details.hidden = !list.length;
  details.querySelector("summary").textContent = many;
  details.querySelector("ol").replaceChildren(...list.map(lineOf));
}

function lineOf(mark) {
  const line = document.createElement("li");
  const time = new Date(mark.at).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" });
  const other = isOthers(mark) ? ` It is ${mark.who}’s: sent when ${mark.who} is logged in.` : "";
  line.textContent = `${time} ${mark.words}.${mark.problem ? ` ${mark.problem}` : ""}${other}`;
  if (mark.problem || other) {
    const drop = document.createElement("button");
    drop.type = "button";
    drop.className = "btn btn-quiet";
    drop.textContent = "Let it go";
    drop.addEventListener("click", () => without(mark.id));
    line.append(" ", drop);
  }
  return line;
}

if (away) {
  document.addEventListener("fence:waiting", show);
  window.addEventListener("storage", show);
  show();
}
