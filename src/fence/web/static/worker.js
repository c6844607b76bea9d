// Keeps the pages of the Set step that were seen, for when the network is gone. Everything else goes to the server.
const KEPT = "fence-kept-1"; // pages
const SHIPPED = `fence-shipped-${FENCE.version}`; // styles, scripts and fonts: the same as long as the version is
const PATIENCE = 4000; // milliseconds after which a kept page is shown instead of waiting on
const MOST = 400; // pages kept; the oldest go first

// The server sets before this: FENCE.pages, patterns of the paths that are kept; FENCE.styles, their style sheets;
// FENCE.version, which changes with what is shipped.

const LOOKS = FENCE.styles.map((sheet) => `<link rel="stylesheet" href="${sheet}">`).join("");
const OFF_HTML = `<!doctype html>
<html lang="en" data-bs-theme="dark">
  <head>
    <meta charset="utf-8">
    <meta name="viewport" content="width=device-width, initial-scale=1">
    <title>Out of reach · Fence</title>
    ${LOOKS}
  </head>
  <body>
    <main class="plain out-of-reach">
      <h1>Out of reach</h1>
      <p>This page is not kept on this phone. What you marked waits here and is sent when the network is back.</p>
      <p>Go back with the phone’s own button: the walk and the cards that you have seen are kept.</p>
    </main>
  </body>
</html>`;
const OFF_PAGE = new Response(OFF_HTML, { status: 503, headers: { "Content-Type": "text/html; charset=utf-8" } });

self.addEventListener("install", () => self.skipWaiting());

self.addEventListener("activate", (event) => {
  const old = async () => {
    for (const name of await caches.keys()) {
      if (name.startsWith("fence-") && name !== KEPT && name !== SHIPPED) await caches.delete(name);
    }
    await self.clients.claim();
  };
  event.waitUntil(old());
});

const PAGES = FENCE.pages.map((pattern) => new RegExp(pattern));
const isPage = (path) => PAGES.some((pattern) => pattern.test(path));
const isShipped = (path) => path.startsWith("/static/");

self.addEventListener("fetch", (event) => {
  const url = new URL(event.request.url);
  if (event.request.method !== "GET" || url.origin !== self.location.origin) return;
  if (isShipped(url.pathname) || isPage(url.pathname)) event.respondWith(answer(event, url));
  else if (event.request.mode === "navigate") event.respondWith(fetch(event.request).catch(() => OFF_PAGE.clone()));
});

async function answer(event, url) {
  const kept = await keptOf(event.request, url);
  if (kept && isShipped(url.pathname)) return kept;
  try {
    const fresh = kept ? await inTime(fetch(event.request)) : await fetch(event.request);
    const isWhole = fresh.status === 200 && !fresh.redirected && fresh.type === "basic";
    if (isWhole) event.waitUntil(keep(event.request, url, fresh.clone()));
    return fresh;
  } catch {
    return kept || (event.request.mode === "navigate" ? OFF_PAGE.clone() : Response.error());
  }
}

const cacheOf = (url) => caches.open(isShipped(url.pathname) ? SHIPPED : KEPT);

async function keptOf(request, url) {
  const cache = await cacheOf(url);
  // a card is the same one from whatever list it was opened; what was typed into a page is not
  const plainly = isPage(url.pathname) && !url.searchParams.has("says") && !url.searchParams.has("on");
  const same = await cache.match(request, { ignoreVary: true });
  if (same || !plainly) return same || null;
  return (await cache.match(request, { ignoreSearch: true, ignoreVary: true })) || null;
}

function inTime(asked) {
  return new Promise((well, ill) => {
    const timer = setTimeout(() => ill(new Error("too slow")), PATIENCE);
    asked.then(well, ill).finally(() => clearTimeout(timer));
  });
}

async function keep(request, url, response) {
  const cache = await cacheOf(url);
  await cache.put(request, response);
  if (isShipped(url.pathname)) return;
  const all = await cache.keys();
  for (const old of all.slice(0, Math.max(0, all.length - MOST))) await cache.delete(old);
}
