/** Pages that are kept on this phone for when the network is gone: this one, and the next ones of the walk. */

import { isSending } from "./sending.js";
import { away, inReach } from "./waiting.js";

const KEPT = "fence-kept-1";
const SOON = 300; // milliseconds: the page itself comes first

/** What keeps pages, where it does. */
export const behind = () => navigator.serviceWorker && navigator.serviceWorker.controller;

/** Whether a page can be shown out of reach; where it cannot, one stays where one is. */
export async function isKept(page) {
  if (!behind() || !window.caches) return false;
  return Boolean(await (await caches.open(KEPT)).match(page, { ignoreVary: true, ignoreSearch: true }));
}

async function keepPages() {
  if (!behind() || !window.caches) return;
  const loaded = performance.getEntriesByType("resource").map((one) => one.name);
  const shipped = loaded.filter((name) => name.startsWith(location.origin + "/static/"));
  for (const page of [...shipped, location.pathname + location.search, ...JSON.parse(away.dataset.keep || "[]")]) {
    if (!inReach() || isSending()) return;
    if (await caches.match(page, { ignoreVary: true })) continue;
    await fetch(page, { headers: { "X-Sending": "keep" } }).catch(() => null);
  }
}

// what somebody else may not find here: the pages that were kept go with the log-out
if (document.querySelector(".door") && !away && window.caches) caches.delete(KEPT);

if (away && navigator.serviceWorker) {
  navigator.serviceWorker.register(away.dataset.worker).catch(() => null);
  navigator.serviceWorker.ready.then(() => setTimeout(keepPages, SOON));
  navigator.serviceWorker.addEventListener("controllerchange", keepPages);
}
