/** Sending marks: each once, in order, as often as it takes. */

import { away, FRESH, isOthers, keepWaiting, reach, told, waiting, without } from "./waiting.js";

const lastly = new Map();
let sending = null;
let token = "";

/** Whether something is being sent. */
export const isSending = () => sending !== null;

/** Send what waits. */
export function send() {
  sending = sending || sendAll().finally(() => (sending = null));
  return sending;
}

/** Keep a mark and send it; gives the answer to it, none where it waits on. Raises where this browser keeps nothing. */
export async function keepAndSend(mark) {
  keepWaiting([...waiting(), mark]);
  await send();
  const stillWaits = waiting().some((one) => one.id === mark.id && !one.problem);
  if (stillWaits && !sending) await send(); // it came while others were sent
  const answer = lastly.get(mark.id);
  lastly.clear();
  return answer;
}

async function sendAll() {
  for (const mark of waiting()) {
    if (isOthers(mark)) continue;
    const answer = await sendOne(mark);
    if (answer === null) break;
    if (answer.kept) without(mark.id);
    else if (Date.now() - mark.at > FRESH || answer.status === 401) told(mark.id, answer.problem || "");
    lastly.set(mark.id, answer);
    if (answer.status === 401) break;
  }
}

function bodyOf(mark) {
  const body = new URLSearchParams(mark.fields);
  body.set("csrf_token", token || body.get("csrf_token") || "");
  body.set("sending", mark.id);
  body.set("words", mark.words);
  body.set("ago", String(Math.max(0, (Date.now() - mark.at) / 1000)));
  if (Date.now() - mark.at > FRESH) body.set("waited", "1");
  return body;
}

// the answer to one mark, or null where none came: then it waits on
async function sendOne(mark, fresh = false) {
  if (fresh && !(await freshToken())) return null;
  const headers = { "X-Sending": "mark" };
  let response;
  try {
    response = await fetch(mark.url, { method: "POST", body: bodyOf(mark), headers, redirect: "error" });
  } catch {
    reach(false);
    return null;
  }
  if (response.status >= 500) return null;
  reach(true);
  if (response.status === 401) return { status: 401, problem: "Log in to send it." };
  let answer;
  try {
    answer = await response.json();
  } catch {
    return { status: response.status, problem: `Not taken (${response.status}).` };
  }
  if (answer.token !== "stale") return { status: response.status, ...answer };
  return fresh ? { status: 400, problem: "Load this page again." } : sendOne(mark, true);
}

async function freshToken() {
  try {
    const response = await fetch(away.dataset.token, { headers: { "X-Sending": "token" } });
    if (!response.ok) return response.status === 401;
    token = (await response.json()).token;
    return true;
  } catch {
    reach(false);
    return false;
  }
}

// marks that arrive while the page stands still are seen once it is loaded again
async function sendAndShow() {
  const before = waiting().length;
  await send();
  if (!before || waiting().length >= before) return;
  if (!document.getElementById("fresh")) window.htmx.trigger("#here", "load");
  for (const form of document.querySelectorAll("form.waits")) form.classList.replace("waits", "sent");
}

const AGAIN = 10000; // milliseconds between two tries

if (away) {
  away.querySelector("[data-send-now]").addEventListener("click", send);
  document.body.addEventListener("htmx:sendError", () => reach(false));
  document.body.addEventListener("htmx:afterRequest", (event) => {
    if (event.detail.elt.id !== "here" || !event.detail.xhr.status) return;
    reach(true);
    if (waiting().length) sendAndShow();
  });
  window.addEventListener("online", sendAndShow);
  window.addEventListener("offline", () => reach(false));
  setInterval(() => waiting().length && sendAndShow(), AGAIN);
}
