/**
 * Keys: one handler. What a key does on this page is told by the server (web/keys.py): ids to press, or one of the
 * functions below by its name.
 */

import { find, forgetFound, moveInFound } from "./find.js";
import { hold } from "./hold.js";
import { amongPosts } from "./lines.js";
import { nudge, nudgeNow } from "./nudge.js";
import { board, press, swapBoard, typing } from "./page.js";
import { openFindings, openKeys } from "./panels.js";
import { pickOneMore } from "./picks.js";

const MAP = JSON.parse(document.getElementById("key-map")?.textContent || "{}");
const GO_SECONDS = 1.5; // how long the letter of a step may come after g
const picked = () => Boolean(board()?.dataset.fixture);

/** Each takes the event, and says whether it did anything. */
const FUNCTIONS = {
  "@find": find,
  "@keys": () => {
    openKeys();
    return true;
  },
  "@findings": () => {
    openFindings("");
    return true;
  },
  "@hold": () => {
    hold(true);
    return false;
  },
  "@open": () => document.activeElement.classList.contains("picked") && press("open-fixture"),
  "@nudge": (event) => {
    if (!picked()) return false;
    const step = event.shiftKey ? Math.max(1, Number(board().dataset.footprint)) : 1;
    nudge(event.key === "ArrowLeft" ? -step : step);
    return true;
  },
  "@type-address": () => {
    const address = document.getElementById("address");
    if (picked() && address && !address.disabled) address.focus();
    return false; // so that the digit is typed into it
  },
  "@leave": () => {
    if (forgetFound()) return true;
    if (!picked() && !(board() && document.getElementById("apply"))) return false;
    swapBoard(board().dataset.leaveUrl);
    return true;
  },
};

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

// ---- going to a step: g, then its letter

let going = -Infinity;

function goTo(event) {
  const follows = event.timeStamp - going < 1000 * GO_SECONDS;
  going = event.key === "g" && !follows ? event.timeStamp : -Infinity;
  if (!follows || !/^[a-z]$/.test(event.key)) return going === event.timeStamp;
  const step = document.querySelector(`[data-go="${event.key}"]`);
  if (step) {
    step.click();
    event.preventDefault();
  }
  return true;
}

// ---- the handler

/** Whether the key is for what has the focus, and not for the page. */
function isForTheField(event) {
  const target = event.target;
  if (event.key === "Escape" && target.matches("input, select, textarea") && !target.closest("dialog")) {
    target.blur();
    return target.id !== "find";
  }
  if (target.closest("#find, #found") && moveInFound(event)) return true;
  if (typing(target)) return !(target.id === "find" && event.key === "Escape");
  if (target.matches("[type=radio]") && event.key.startsWith("Arrow")) return true;
  return event.key === " " && target.closest("a, button, summary, select, [type=checkbox]") !== null;
}

function undoOrRedo(event) {
  if (!typing(event.target) && press(event.shiftKey ? "redo-button" : "undo-button")) event.preventDefault();
}

function act(event) {
  const run = event.target.closest("a.run");
  if (event.key === "Enter" && event.shiftKey && run) {
    pickOneMore(run);
    return true;
  }
  if (event.target.closest("a.post") && amongPosts(event)) return true;
  return (MAP[event.key] || []).some((does) => (does in FUNCTIONS ? FUNCTIONS[does](event) : press(does)));
}

document.addEventListener("keydown", (event) => {
  const held = event.target.closest("[data-hold]");
  if (held && (event.key === " " || event.key === "Enter")) hold(true);
  if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z") return undoOrRedo(event);
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  if (!single && event.key.length === 1) return;
  if (!typing(event.target) && goTo(event)) return;
  if (isForTheField(event)) return;
  const moves = event.key.startsWith("Arrow") && picked();
  if (!moves && event.key !== "Shift") nudgeNow();
  if (act(event)) event.preventDefault();
});
