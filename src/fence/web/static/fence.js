// What only the page knows: keys, dragging, what is open. The rules of the job stay on the server.
(function () {
  "use strict";

  const board = () => document.getElementById("board");
  const typing = (target) => target.closest("input, textarea, select, dialog, [contenteditable]") !== null;
  const press = (id) => {
    const target = document.getElementById(id);
    if (target && !target.disabled) target.click();
    return target !== null;
  };

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

  // ---- moving the picked fixture: presses made while one is on its way are added up and sent after it

  let waiting = 0;
  let sending = false;

  function nudge(by) {
    waiting += by;
    if (!sending) send();
  }

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
    b: () => press("mark-set") || press("set-picked"),
    n: () => press("next-finding"),
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

  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.key === "Escape" && event.target.matches("input, select, textarea") && !event.target.closest("dialog")) {
      event.target.blur();
      if (event.target.id !== "find") return;
    }
    if (typing(event.target) && event.target.id !== "find") return;
    if (event.target.id === "find" && event.key !== "Escape") return;
    const here = board();
    if (here && here.dataset.fixture && (event.key === "ArrowLeft" || event.key === "ArrowRight")) {
      const step = event.shiftKey ? Math.max(1, Number(here.dataset.footprint)) : 1;
      nudge(event.key === "ArrowLeft" ? -step : step);
      event.preventDefault();
      return;
    }
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
    const action = KEYS[event.key];
    if (action && action()) event.preventDefault();
  });

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
    const column = Math.min(63, Math.max(0, Math.floor((point.x - left) / pitch)));
    const rail = Math.min(7, Math.max(0, Math.floor((point.y - top) / railPitch)));
    return rail * 64 + column + 1;
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
    if (document.activeElement === document.body) {
      const run = document.querySelector("a.run.picked");
      if (run) run.focus({ preventScroll: true });
    }
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
