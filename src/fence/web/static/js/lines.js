/** Lines: arrows go from post to post, with Shift they take the post along; a post can be dropped on another. */

import { stopNextClick } from "./page.js";

const FAR_ENOUGH = 6; // pixels; less is a click
const postsOf = (line) => [...document.querySelectorAll(`a.post[data-line="${line}"]`)];

const STEPS = { ArrowLeft: -1, ArrowRight: 1 };

/** Take an arrow among the posts; whether it was one that means something there. */
export function amongPosts(event) {
  const here = event.target.closest("a.post");
  const by = STEPS[event.key];
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
    Object.assign(field, { type: "hidden", name, value });
    form.append(field);
  }
  document.body.append(form);
  form.requestSubmit();
}

let carried = null;

document.addEventListener("pointerdown", (event) => {
  const post = event.target.closest("[data-lines] a.post");
  if (post && event.button === 0 && event.pointerType === "mouse") {
    carried = { post, x: event.clientX, y: event.clientY, moved: false, over: null };
  }
});

document.addEventListener("dragstart", (event) => {
  if (event.target.closest && event.target.closest("a.post")) event.preventDefault();
});

document.addEventListener("pointermove", (event) => {
  if (!carried) return;
  if (!carried.moved && Math.hypot(event.clientX - carried.x, event.clientY - carried.y) < FAR_ENOUGH) return;
  carried.moved = true;
  carried.post.classList.add("dragged");
  const under = document.elementFromPoint(event.clientX, event.clientY);
  const over = under?.closest("a.post, .source-post") || null;
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
  stepOnLine("move", { line, stop, to_line: held.over.dataset.line, to: held.over.dataset.stop || "" });
});

document.addEventListener("pointercancel", () => {
  carried?.post.classList.remove("dragged");
  carried = null;
});

window.addEventListener("load", () => document.querySelector("[data-lines] a.post.picked")?.focus());
