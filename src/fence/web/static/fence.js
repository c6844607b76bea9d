// What only the page knows: keys, dragging, what is open. The rules of the job stay on the server.
(function () {
  "use strict";

  const board = () => document.getElementById("board");
  const TEXT = "input:not([type=checkbox], [type=radio], [type=button], [type=submit]), textarea, select, dialog, [contenteditable]";
  const typing = (target) => target.closest(TEXT) !== null;
  const press = (id) => {
    const target = document.getElementById(id);
    if (target && !target.disabled) target.click();
    return target !== null;
  };

  // ---- a narrow screen gets shorter rails: the server draws them, so it is told

  const pickets = window.matchMedia("(max-width: 600px)").matches ? "32" : "64";
  const told = document.cookie.split("; ").includes("rail=" + pickets);
  document.cookie = "rail=" + pickets + "; path=/; max-age=31536000; samesite=lax";
  const drawn = document.querySelector("svg.fence");
  if (!told && drawn && drawn.dataset.pickets !== pickets) location.reload();

  // ---- times as they are where the person is

  const tellTimes = () => document.querySelectorAll("time[datetime]").forEach(tellTime);
  function tellTime(time) {
    const date = new Date(time.dateTime);
    const today = "short" in time.dataset && date.toDateString() === new Date().toDateString();
    time.textContent = date.toLocaleString([], today ? { timeStyle: "short" } : { dateStyle: "medium", timeStyle: "short" });
  }

  tellTimes();
  document.addEventListener("htmx:afterSettle", tellTimes);

  // ---- whether single keys act: some dictate, some rest a hand on the keyboard

  const KEPT = "fence.single-keys";
  let single = localStorage.getItem(KEPT) !== "off";
  const switchBox = document.getElementById("single-keys");
  if (switchBox) {
    switchBox.checked = single;
    switchBox.addEventListener("change", () => {
      single = switchBox.checked;
      localStorage.setItem(KEPT, single ? "on" : "off");
    });
  }

  // ---- what this person's role does not take is put away: the server refuses it in any case

  const patterns = (words) => JSON.parse(words || "[]").map((one) => new RegExp(one));
  const limited = document.body.classList.contains("limited");
  const openTo = patterns(document.body.dataset.openTo);
  const closedTo = patterns(document.body.dataset.closedTo);
  const among = (list, address) => list.some((one) => one.test(new URL(address, location.href).pathname));

  function putAway() {
    if (!limited) return;
    for (const form of document.querySelectorAll("form[method=post]:not([data-may])")) {
      if (among(openTo, form.getAttribute("action") || "")) form.dataset.may = "";
      for (const button of form.querySelectorAll("[formaction]")) button.hidden = !among(openTo, button.getAttribute("formaction"));
    }
    for (const link of document.querySelectorAll("a[href]")) {
      if (link.origin === location.origin && among(closedTo, link.href)) link.classList.add("closed");
    }
  }
  putAway();
  document.addEventListener("htmx:afterSettle", putAway);

  // ---- findings, keys, dialogs

  function openFindings(severity) {
    const panel = document.getElementById("findings");
    if (!panel) return;
    const url = new URL(panel.getAttribute("hx-get"), location.href);
    if (severity) url.searchParams.set("severity", severity);
    window.htmx.ajax("GET", url.pathname + url.search, { target: "#findings", swap: "innerHTML" });
    window.bootstrap.Offcanvas.getOrCreateInstance(panel).show();
  }

  document.addEventListener("click", (event) => {
    const target = event.target.closest("[data-panel], [data-keys], [data-dismiss], [data-open], [data-print]");
    if (!target) return;
    if ("print" in target.dataset) window.print();
    if (target.dataset.panel) openFindings(target.dataset.panel);
    if ("keys" in target.dataset) document.getElementById("keys").showModal();
    if (target.dataset.dismiss) document.querySelector(target.dataset.dismiss).replaceChildren();
    if (target.dataset.open) {
      event.preventDefault();
      document.querySelector(target.dataset.open).showModal();
    }
  });

  // ---- the plan as it would be; while a key or the button is held, as it is

  function hold(on) {
    for (const pair of document.querySelectorAll("[data-now-then]")) {
      pair.classList.toggle("hold-now", on);
      pair.querySelector("[data-hold]").setAttribute("aria-pressed", on);
    }
  }

  document.addEventListener("pointerdown", (event) => event.target.closest("[data-hold]") && hold(true));
  document.addEventListener("pointerup", () => hold(false));
  document.addEventListener("keyup", () => hold(false));
  document.addEventListener("keydown", (event) => {
    const held = event.target.closest("[data-hold]") && (event.key === " " || event.key === "Enter");
    if (held || (event.key === "h" && single && !typing(event.target))) hold(true);
  });

  // ---- moving the picked fixture: a burst of presses is added up and sent as one move, one step to undo

  const BURST = 250;
  let waiting = 0;
  let sending = false;
  let later = null;

  function nudge(by) {
    waiting += by;
    clearTimeout(later);
    later = setTimeout(() => !sending && send(), BURST);
  }

  function nudgeNow() {
    if (waiting === 0) return;
    clearTimeout(later);
    if (!sending) send();
  }

  document.addEventListener("pointerdown", nudgeNow, true);
  window.addEventListener("pagehide", nudgeNow);

  async function send() {
    while (waiting !== 0) {
      const here = board();
      const by = waiting;
      waiting = 0;
      sending = true;
      try {
        await post(here.dataset.nudgeUrl, { fixture: here.dataset.fixture, part: here.dataset.part, by: by });
      } finally {
        sending = false;
      }
    }
  }

  function post(url, values) {
    const here = board();
    return window.htmx.ajax("POST", url, {
      source: here,
      target: "#board",
      swap: "outerHTML",
      values: { revision: here.dataset.revision, u: here.dataset.u, also: here.dataset.also, ...values },
    });
  }

  const KEYS = {
    "/": () => {
      const find = document.getElementById("find");
      if (find) find.focus();
      return find !== null;
    },
    "?": () => {
      document.getElementById("keys").showModal();
      return true;
    },
    x: () => press("swap"),
    p: () => press("pin") || press("pin-picked"),
    b: () => press("mark-set") || press("set-picked") || press("set-next"),
    n: () => press("next-finding") || press("next-fixture"),
    i: () => press("says"),
    N: () => press("previous-finding"),
    m: () => press("mend-all"),
    c: () => press("close-gaps"),
    d: () => press("apply") || press("keep"),
    l: () => press("lay-out"),
    w: () => press("what-if"),
    s: () => press("sheet"),
    r: () => press("room"),
    Enter: () => document.activeElement.classList.contains("picked") && press("open-fixture"),
    "[": () => press("previous-universe"),
    "]": () => press("next-universe"),
    u: () => press("undo-button"),
    U: () => press("redo-button"),
    a: () => press("add-fixtures"),
    e: () => {
      openFindings("");
      return true;
    },
    Escape: () => {
      const found = document.getElementById("found");
      if (found && found.childElementCount) {
        found.replaceChildren();
        return true;
      }
      const here = board();
      if (here && (here.dataset.fixture || document.getElementById("apply"))) {
        window.htmx.ajax("GET", here.dataset.leaveUrl, { target: "#board", swap: "outerHTML" });
        return true;
      }
      return false;
    },
  };

  // ---- going to a step: g, then its letter

  let going = -Infinity;

  function goTo(letter) {
    const step = document.querySelector(`[data-go="${letter}"]`);
    if (step) step.click();
    return step !== null;
  }

  // ---- a colour that is picked is typed

  document.addEventListener("input", (event) => {
    const goal = event.target.dataset.picks;
    if (goal) document.querySelector(goal).value = event.target.value;
  });

  // ---- in Prove one key answers

  const PROVE = { " ": ["right", "bring"], 1: ["dark"], 2: ["other"], 3: ["wrong"], 0: ["all-out"], ArrowLeft: ["before"], ArrowRight: ["after"] };

  document.addEventListener("keydown", (event) => {
    const target = event.target;
    if (!document.querySelector("[data-prove]") || event.ctrlKey || event.metaKey || event.altKey || typing(target)) return;
    if (!single && event.key.length === 1) return;
    if (event.key === " " && target.closest("a, button, summary, select, [type=checkbox]")) return;
    if ((PROVE[event.key] || []).some(press)) event.preventDefault();
  });

  document.addEventListener("keydown", (event) => {
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z" && !typing(event.target)) {
      if (press(event.shiftKey ? "redo-button" : "undo-button")) event.preventDefault();
      return;
    }
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (!single && event.key.length === 1) return;
    const follows = event.timeStamp - going < 1500;
    going = -Infinity;
    if (follows && !typing(event.target) && /^[a-z]$/.test(event.key)) {
      if (goTo(event.key)) event.preventDefault();
      return;
    }
    if (event.key === "g" && !typing(event.target)) {
      going = event.timeStamp;
      return;
    }
    if (event.key === "Escape" && event.target.matches("input, select, textarea") && !event.target.closest("dialog")) {
      event.target.blur();
      if (event.target.id !== "find") return;
    }
    if (event.target.closest("#find, #found") && moveInFound(event)) return;
    if (typing(event.target) && event.target.id !== "find") return;
    if (event.target.id === "find" && event.key !== "Escape") return;
    if (event.target.matches("[type=radio]") && event.key.startsWith("Arrow")) return;
    const here = board();
    if (here && here.dataset.fixture && (event.key === "ArrowLeft" || event.key === "ArrowRight")) {
      const step = event.shiftKey ? Math.max(1, Number(here.dataset.footprint)) : 1;
      nudge(event.key === "ArrowLeft" ? -step : step);
      event.preventDefault();
      return;
    }
    if (event.key !== "Shift") nudgeNow();
    if (event.key === "Enter" && event.shiftKey && event.target.closest("a.run")) {
      pickOneMore(event.target.closest("a.run"));
      event.preventDefault();
      return;
    }
    if (/^[0-9]$/.test(event.key) && here && here.dataset.fixture) {
      const address = document.getElementById("address");
      if (address && !address.disabled) address.focus();
      return;
    }
    if (event.target.closest("a.post") && amongPosts(event)) {
      event.preventDefault();
      return;
    }
    const action = KEYS[event.key];
    if (action && action()) event.preventDefault();
  });

  // ---- lines: arrows go from post to post, with Shift they take the post along; a post can be dropped on another

  const postsOf = (line) => [...document.querySelectorAll(`a.post[data-line="${line}"]`)];

  function amongPosts(event) {
    const here = event.target.closest("a.post");
    const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (by && event.shiftKey) {
      stepOnLine(by < 0 ? "earlier" : "later", { line: here.dataset.line, stop: here.dataset.stop });
      return true;
    }
    if (by) {
      const posts = postsOf(here.dataset.line);
      posts[posts.indexOf(here) + by]?.focus();
      return true;
    }
    if (event.key !== "ArrowUp" && event.key !== "ArrowDown") return false;
    const lines = [...new Set([...document.querySelectorAll("a.post")].map((one) => one.dataset.line))];
    const next = lines[lines.indexOf(here.dataset.line) + (event.key === "ArrowUp" ? -1 : 1)];
    if (next) postsOf(next)[0].focus();
    return true;
  }

  function stepOnLine(what, values) {
    const page = document.querySelector("[data-lines]");
    const form = document.createElement("form");
    form.method = "post";
    form.action = page.dataset.lines.replace(/move$/, what);
    const all = { csrf_token: page.dataset.csrf, revision: page.dataset.revision, ...values };
    for (const [name, value] of Object.entries(all)) {
      const field = document.createElement("input");
      Object.assign(field, { type: "hidden", name: name, value: value });
      form.append(field);
    }
    document.body.append(form);
    form.requestSubmit();
  }

  let carried = null;

  document.addEventListener("pointerdown", (event) => {
    const one = event.target.closest("[data-lines] a.post");
    if (one && event.button === 0 && event.pointerType === "mouse") {
      carried = { post: one, x: event.clientX, y: event.clientY, moved: false, over: null };
    }
  });

  document.addEventListener("dragstart", (event) => {
    if (event.target.closest && event.target.closest("a.post")) event.preventDefault();
  });

  document.addEventListener("pointermove", (event) => {
    if (!carried) return;
    if (!carried.moved && Math.hypot(event.clientX - carried.x, event.clientY - carried.y) < 6) return;
    carried.moved = true;
    carried.post.classList.add("dragged");
    const over = document.elementFromPoint(event.clientX, event.clientY)?.closest("a.post, .source-post") || null;
    if (over === carried.over) return;
    carried.over?.classList.remove("drop");
    carried.over = over === carried.post ? null : over;
    carried.over?.classList.add("drop");
  });

  document.addEventListener("pointerup", () => {
    const held = carried;
    carried = null;
    if (!held || !held.moved) return;
    stopNextClick();
    held.post.classList.remove("dragged");
    held.over?.classList.remove("drop");
    if (!held.over) return;
    const { line, stop } = held.post.dataset;
    stepOnLine("move", { line: line, stop: stop, to_line: held.over.dataset.line, to: held.over.dataset.stop || "" });
  });

  // ---- the find box: arrows go through what is found, Enter takes it (the first, from the box)

  function moveInFound(event) {
    const links = [...document.querySelectorAll("#found a")];
    const at = links.indexOf(document.activeElement);
    if (event.key === "ArrowDown" || event.key === "ArrowUp") {
      const next = at + (event.key === "ArrowDown" ? 1 : -1);
      if (next < 0) document.getElementById("find").focus();
      else links[Math.min(next, links.length - 1)]?.focus();
      event.preventDefault();
      return true;
    }
    if (event.key === "Enter" && at < 0 && links.length) {
      links[0].click();
      event.preventDefault();
      return true;
    }
    return event.key === "Enter";
  }

  // ---- picking several: Shift with a click or with Enter adds a run to the picked ones, or takes it out

  function pickOneMore(run) {
    const here = board();
    const picked = [here.dataset.fixture, ...here.dataset.also.split(",")].filter(Boolean);
    const id = run.dataset.fixture;
    const next = picked.includes(id) ? picked.filter((other) => other !== id) : [...picked, id];
    const url = ask(here.dataset.indexUrl, { u: here.dataset.u, pick: next[0] || "", also: next.slice(1).join(",") });
    window.htmx.ajax("GET", url, { target: "#board", swap: "outerHTML" });
  }

  document.addEventListener(
    "click",
    (event) => {
      const run = event.shiftKey && event.target.closest("a.run");
      if (!run || !board()) return;
      event.preventDefault();
      event.stopPropagation();
      pickOneMore(run);
    },
    true,
  );

  // ---- dragging a run: the server says of every slot whether it is clear, before the drop is final

  let drag = null;

  function slotAt(svg, event) {
    const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
    const { left, top, pitch, railPitch } = svg.dataset;
    const pickets = Number(svg.dataset.pickets);
    const column = Math.min(pickets - 1, Math.max(0, Math.floor((point.x - left) / pitch)));
    const rail = Math.min(512 / pickets - 1, Math.max(0, Math.floor((point.y - top) / railPitch)));
    return rail * pickets + column + 1;
  }

  function ask(url, values) {
    const asked = new URL(url, location.href);
    for (const [name, value] of Object.entries(values)) asked.searchParams.set(name, value);
    return asked.pathname + asked.search;
  }

  document.addEventListener("pointerdown", (event) => {
    const run = event.target.closest("a.run");
    if (!run || event.button !== 0) return;
    const svg = run.closest("svg");
    drag = { run, svg, grab: slotAt(svg, event) - Number(run.dataset.start), slot: 0, x: event.clientX, y: event.clientY, moved: false, last: null };
  });

  document.addEventListener("dragstart", (event) => {
    if (event.target.closest && event.target.closest("a.run")) event.preventDefault();
  });

  document.addEventListener("pointermove", (event) => {
    if (!drag) return;
    if (!drag.moved && Math.hypot(event.clientX - drag.x, event.clientY - drag.y) < 6) return;
    drag.moved = true;
    drag.svg.classList.add("dragging");
    const slot = Math.min(512, Math.max(1, slotAt(drag.svg, event) - drag.grab));
    if (slot === drag.slot) return;
    drag.slot = slot;
    drag.last = tryAt(drag, slot);
  });

  async function tryAt(held, slot) {
    const { fixture, part } = held.run.dataset;
    const url = ask(board().dataset.tryUrl, { pick: fixture, part: part, u: held.svg.dataset.universe, slot: slot });
    const answer = await (await fetch(url, { headers: { "HX-Request": "true" } })).json();
    if (drag === held && held.slot === slot) show(held.svg, answer);
    return answer;
  }

  function show(svg, answer) {
    const ghost = svg.querySelector(".drag");
    ghost.setAttribute("d", answer.body);
    ghost.classList.toggle("not-clear", !answer.legal);
    const words = document.getElementById("drag-words");
    words.textContent = answer.words;
    words.classList.toggle("not-clear", !answer.legal);
  }

  document.addEventListener("pointerup", async (event) => {
    const held = drag;
    drag = null;
    if (!held || !held.moved) return;
    stopNextClick();
    held.svg.classList.remove("dragging");
    const card = document.elementFromPoint(event.clientX, event.clientY)?.closest(".card-u");
    if (card) return dropOnUniverse(held, card.dataset.number);
    const answer = await held.last;
    if (held.slot === Number(held.run.dataset.start)) return show(held.svg, { body: "", words: "", legal: true });
    const { fixture, part } = held.run.dataset;
    if (answer.legal) return post(board().dataset.moveUrl, { fixture: fixture, part: part, address: answer.address });
    const url = ask(board().dataset.dropUrl, { pick: fixture, part: part, u: held.svg.dataset.universe, slot: held.slot });
    return window.htmx.ajax("GET", url, { target: "#board", swap: "outerHTML" });
  });

  // a run that is let go over a small universe goes to the same slot there, or is shown what is in the way
  async function dropOnUniverse(held, number) {
    const { fixture, part, start } = held.run.dataset;
    const where = { pick: fixture, part: part, u: number, slot: start };
    const answer = await (await fetch(ask(board().dataset.tryUrl, where), { headers: { "HX-Request": "true" } })).json();
    if (answer.legal) return post(board().dataset.moveUrl, { fixture: fixture, part: part, address: answer.address });
    return window.htmx.ajax("GET", ask(board().dataset.dropUrl, where), { target: "#board", swap: "outerHTML" });
  }

  document.addEventListener("pointercancel", () => {
    drag = null;
    carried?.post.classList.remove("dragged");
    carried = null;
  });

  function stopNextClick() {
    const stop = (event) => {
      event.preventDefault();
      event.stopImmediatePropagation();
    };
    window.addEventListener("click", stop, { capture: true, once: true });
    setTimeout(() => window.removeEventListener("click", stop, { capture: true }), 50);
  }

  // ---- after a swap: show the current card, keep the focus on the picked run

  document.addEventListener("htmx:afterSettle", () => {
    const current = document.querySelector(".card-u.current");
    if (current) current.parentElement.parentElement.scrollTop = current.offsetTop - current.parentElement.parentElement.offsetTop - 4;
    if (document.activeElement === document.body) refocus();
    showAbove();
  });

  // ---- on a phone the selected fixture's facts come up from below: its run is shown above them

  function showAbove() {
    const facts = document.querySelector(".inspector.from-below");
    const run = document.querySelector("a.run.picked, a.post.picked");
    if (!facts || !run || getComputedStyle(facts).position !== "fixed") return;
    const room = facts.getBoundingClientRect().top;
    const box = run.getBoundingClientRect();
    if (box.top < 0 || box.bottom > room) window.scrollBy(0, box.top - room / 3);
  }
  window.addEventListener("load", showAbove);
  window.addEventListener("load", () => document.querySelector("[data-lines] a.post.picked")?.focus());

  // ---- the focus never falls to the page: it goes to what comes next, else to where it was

  let lastRun = "";
  document.addEventListener("htmx:beforeSwap", () => {
    lastRun = document.querySelector("a.run.picked")?.id || lastRun;
  });

  function refocus() {
    const here = board() || document;
    const next =
      document.querySelector("#notice .problem button") ||
      here.querySelector("#apply:not([disabled])") ||
      here.querySelector("a.run.picked") ||
      (lastRun && document.getElementById(lastRun)) ||
      document.getElementById("work");
    if (next) next.focus({ preventScroll: next.id !== "apply" || pickets === "32" });
  }

  const SENT = "fence.sent-from";
  // ---- a step that takes seconds says so, and is not sent twice

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

  document.addEventListener("submit", (event) => {
    const from = event.submitter?.id || document.activeElement?.id;
    if (from) sessionStorage.setItem(SENT, from);
  });
  const from = document.getElementById(sessionStorage.getItem(SENT) || "");
  sessionStorage.removeItem(SENT);
  const refused = document.querySelector("main .is-invalid, main .problem");
  if (refused) {
    if (!refused.matches("input, select, textarea")) refused.tabIndex = -1;
    refused.focus();
  } else if (from && !from.disabled && !typing(from)) from.focus({ preventScroll: true });
  else if (from) refocus();

  // ---- setting switches in a drill: nothing is told before the answer is given

  document.addEventListener("click", (event) => {
    const tap = event.target.closest("[data-tap]");
    if (!tap) return;
    const answer = document.getElementById("answer");
    const on = new Set(answer.value.split(",").filter(Boolean));
    const number = tap.dataset.tap;
    on.has(number) ? on.delete(number) : on.add(number);
    answer.value = [...on].join(",");
    tap.setAttribute("aria-pressed", on.has(number));
    for (const name of ["on", "off", "up", "down"]) tap.classList.toggle(name);
  });

  // ---- tapping the segments of a display that are lit; what is typed counts before them

  document.addEventListener("click", (event) => {
    const segment = event.target.closest("[data-seg]");
    if (!segment) return;
    segment.setAttribute("aria-pressed", segment.getAttribute("aria-pressed") !== "true");
    const pads = [...document.querySelectorAll("[data-pad]")];
    const lit = (pad) => [...pad.querySelectorAll("[aria-pressed=true]")].map((one) => one.dataset.seg).join("");
    document.querySelector("[data-lit]").value = pads.map(lit).join(",");
    document.getElementById("typed").value = "";
  });
  (document.querySelector("[data-lit]")?.value || "").split(",").forEach((segments, place) => {
    for (const name of segments) document.querySelector(`[data-pad="${place}"] [data-seg="${name}"]`)?.setAttribute("aria-pressed", "true");
  });

  // ---- small components

  document.addEventListener("alpine:init", () => {
    window.Alpine.data("filter", () => ({
      narrow(event) {
        const words = event.target.value.toLowerCase().split(/\s+/).filter(Boolean);
        for (const item of this.$root.querySelectorAll("[data-filter-text]")) {
          const text = item.dataset.filterText.toLowerCase();
          item.hidden = !words.every((word) => text.includes(word));
        }
      },
    }));

    window.Alpine.data("picks", () => ({
      count: 0,
      last: null,
      init() {
        this.recount();
        this.$root.addEventListener("click", (event) => this.clicked(event));
        this.$root.addEventListener("htmx:afterSettle", () => this.recount());
      },
      boxes() {
        return [...this.$root.querySelectorAll("input[name=picked]")];
      },
      clicked(event) {
        const box = event.target;
        if (box.matches("[data-pick-all]")) this.boxes().forEach((other) => (other.checked = box.checked));
        if (box.name === "picked") {
          if (event.shiftKey && this.last) this.between(this.last, box).forEach((other) => (other.checked = box.checked));
          this.last = box;
        }
        this.recount();
      },
      between(one, other) {
        const boxes = this.boxes();
        const places = [boxes.indexOf(one), boxes.indexOf(other)].sort((a, b) => a - b);
        return boxes.slice(places[0], places[1] + 1);
      },
      recount() {
        this.count = this.boxes().filter((box) => box.checked).length;
      },
    }));
  });
})();
