// Out of reach: marks are kept on the phone first and sent then, each once, in order, as often as it takes.
(function () {
  "use strict";

  const WAITING = "fence.waiting";
  const KEPT = "fence-kept-1";
  const FRESH = 8000; // milliseconds: a mark that is answered within was not really waiting
  const AGAIN = 10000;

  const away = document.getElementById("away");
  const who = document.body.dataset.who;
  const behind = () => navigator.serviceWorker && navigator.serviceWorker.controller;

  // what somebody else may not find here: the pages that were kept go with the log-out
  async function forget() {
    if (window.caches) await caches.delete(KEPT);
  }
  if (document.querySelector(".door") && !away) forget();

  // ---- the marks that wait

  function waiting() {
    try {
      return JSON.parse(localStorage.getItem(WAITING)) || [];
    } catch {
      return [];
    }
  }

  function keepWaiting(list) {
    localStorage.setItem(WAITING, JSON.stringify(list));
    show();
  }

  const without = (id) => keepWaiting(waiting().filter((one) => one.id !== id));

  function told(id, words) {
    keepWaiting(waiting().map((one) => (one.id === id ? { ...one, problem: words } : one)));
  }

  function newId() {
    const bytes = crypto.getRandomValues(new Uint8Array(16));
    return [...bytes].map((one) => one.toString(16).padStart(2, "0")).join("");
  }

  // ---- sending

  let sending = null;
  let inReach = true;
  let token = "";

  function send() {
    sending = sending || sendAll().finally(() => (sending = null));
    return sending;
  }

  async function sendAll() {
    for (const mark of waiting()) {
      if (mark.who !== who && document.getElementById("who-is")) continue;
      const answer = await sendOne(mark);
      if (answer === null) break;
      if (answer.kept) without(mark.id);
      else if (Date.now() - mark.at > FRESH || answer.status === 401) told(mark.id, answer.problem || "");
      lastly.set(mark.id, answer);
      if (answer.status === 401) break;
    }
  }

  const lastly = new Map();

  // the answer to one mark, or null where none came: then it waits on
  async function sendOne(mark, fresh = false) {
    if (fresh && !(await freshToken())) return null;
    const body = new URLSearchParams(mark.fields);
    body.set("csrf_token", token || body.get("csrf_token") || "");
    body.set("sending", mark.id);
    body.set("words", mark.words);
    body.set("ago", String(Math.max(0, (Date.now() - mark.at) / 1000)));
    if (Date.now() - mark.at > FRESH) body.set("waited", "1");
    let response;
    try {
      response = await fetch(mark.url, { method: "POST", body, headers: { "X-Sending": "mark" }, redirect: "error" });
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
    if (answer.token === "stale") return fresh ? { status: 400, problem: "Load this page again." } : sendOne(mark, true);
    return { status: response.status, ...answer };
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

  // ---- a mark is made: it is kept, sent, and the walk goes on either way

  function fieldsOf(form, button) {
    const fields = [...new FormData(form)].filter(([, value]) => typeof value === "string");
    for (const one of form.querySelectorAll("input[type=hidden]:disabled")) fields.push([one.name, one.value]);
    if (button && button.name) fields.push([button.name, button.value]);
    return fields;
  }

  async function mark(form, url, words, fields) {
    if (form.dataset.sent) return;
    form.dataset.sent = "1";
    const made = { id: newId(), url: url, fields: fields, words: words, at: Date.now(), who: who, show: away.dataset.show };
    try {
      keepWaiting([...waiting(), made]);
    } catch {
      form.dataset.sent = "";
      return problem("This browser keeps nothing (private window, or full): nothing is marked yet. Try again in reach.");
    }
    await send();
    if (waiting().some((one) => one.id === made.id && !one.problem) && !sending) await send(); // it came while others were sent
    const answer = lastly.get(made.id);
    lastly.clear();
    if (answer && answer.kept) return go(answer.again ? form.dataset.next || location.href : answer.to);
    if (answer && answer.status !== 401) {
      without(made.id);
      form.dataset.sent = "";
      return problem(answer.problem);
    }
    const next = form.dataset.next;
    if (next && next !== location.pathname + location.search && (await isKept(next))) return go(next);
    form.classList.add("waits");
    form.dataset.sent = "";
    const button = form.querySelector("[type=submit]");
    if (button) button.disabled = true;
  }

  // whether a page can be shown out of reach; where it cannot, one stays where one is
  async function isKept(page) {
    if (!behind() || !window.caches) return false;
    return Boolean(await (await caches.open(KEPT)).match(page, { ignoreVary: true, ignoreSearch: true }));
  }

  // going to where one is already loads the page again, as a form would
  function go(to) {
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

  document.addEventListener(
    "submit",
    (event) => {
      const form = event.target;
      const saysNow = form.dataset.awayAction && !inReach;
      if (!away || !(form.dataset.later || saysNow)) return;
      event.preventDefault();
      event.stopPropagation();
      if (event.submitter && event.submitter.id) sessionStorage.setItem("fence.sent-from", event.submitter.id); // the focus comes back to it
      const fields = fieldsOf(form, event.submitter);
      if (!saysNow) return void mark(form, form.getAttribute("action"), form.dataset.later, fields);
      const values = new Map(fields);
      if (!values.get("says") && !(values.get("lit") || "").replaceAll(",", "") && !values.has("on")) return problem("Type what it shows first.");
      const shown = values.get("says") || (values.has("on") ? `switches ${values.get("on")} on` : "segments");
      mark(form, form.dataset.awayAction, `${form.dataset.laterSays}: says ${shown}`, fields);
    },
    true,
  );

  if (!away) return;

  // ---- what is said of it

  function reach(now) {
    inReach = now;
    document.body.classList.toggle("out", !now); // what a kept page said when it was fresh is not said again
    show();
  }

  function show() {
    if (!away) return;
    const list = waiting();
    const many = list.length === 1 ? "1 mark waits" : `${list.length} marks wait`;
    away.hidden = inReach && !list.length;
    away.querySelector("[data-away-words]").textContent = inReach ? `${many} to be sent.` : list.length ? `Out of reach: ${many}.` : "Out of reach.";
    away.querySelector("[data-away-state]").hidden = inReach;
    away.querySelector("[data-away-kept]").textContent =
      inReach ? "" : behind() ? (list.length ? "" : "Go on marking: it is kept on this phone and sent when the network is back.") : "What you mark is kept on this phone. Do not leave this page: without HTTPS a phone cannot keep the others.";
    const details = away.querySelector("details");
    details.hidden = !list.length;
    details.querySelector("summary").textContent = many;
    details.querySelector("ol").replaceChildren(...list.map(lineOf));
  }

  function lineOf(mark) {
    const line = document.createElement("li");
    const time = new Date(mark.at).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" });
    const other = mark.who !== who && document.getElementById("who-is") ? ` It is ${mark.who}’s: sent when ${mark.who} is logged in.` : "";
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

  away.querySelector("[data-send-now]").addEventListener("click", send);
  document.body.addEventListener("htmx:sendError", () => reach(false));
  document.body.addEventListener("htmx:afterRequest", (event) => {
    if (event.detail.elt.id !== "here" || !event.detail.xhr.status) return;
    reach(true);
    if (waiting().length) sendAndShow();
  });

  // marks that arrive while the page stands still are seen once it is loaded again
  async function sendAndShow() {
    const before = waiting().length;
    await send();
    if (before && waiting().length < before) {
      const fresh = document.getElementById("fresh");
      if (!fresh) window.htmx.trigger("#here", "load");
      for (const form of document.querySelectorAll("form.waits")) form.classList.replace("waits", "sent");
    }
  }

  window.addEventListener("online", sendAndShow);
  window.addEventListener("offline", () => reach(false));
  setInterval(() => waiting().length && sendAndShow(), AGAIN);
  window.addEventListener("storage", show);
  show();

  // ---- pages that may be needed out of reach: this one, and the next ones of the walk

  async function keepPages() {
    if (!behind() || !window.caches) return;
    const kept = await caches.open(KEPT);
    const shipped = performance.getEntriesByType("resource").map((one) => one.name).filter((name) => name.startsWith(location.origin + "/static/"));
    for (const page of [...shipped, location.pathname + location.search, ...JSON.parse(away.dataset.keep || "[]")]) {
      if (!inReach || sending) return;
      if (!(await kept.match(page, { ignoreVary: true }))) await fetch(page, { headers: { "X-Sending": "keep" } }).catch(() => null);
    }
  }

  if (navigator.serviceWorker) {
    navigator.serviceWorker.register(away.dataset.worker).catch(() => null);
    navigator.serviceWorker.ready.then(() => setTimeout(keepPages, 300));
    navigator.serviceWorker.addEventListener("controllerchange", keepPages);
  }
})();
