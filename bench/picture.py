"""How soon the picture changes after a key: the Address page with 64 universes and 2,000 fixtures,
in a real browser.

Beside it stands a page that only echoes: a key, a request that is answered at once, and a number
that changes. The time runs from the key until the frame after the change is drawn. Also printed:
the size of the page, and how long the preview of a repair takes with 5,000 fixtures in 120
universes. It needs Chromium (``tools/chromium.sh``).
"""

from __future__ import annotations

import sys
import threading
from pathlib import Path
from statistics import median
from tempfile import TemporaryDirectory
from time import perf_counter

from flask import Flask
from selenium.webdriver import Chrome

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT))

from tests.browser.chromium import chromium  # noqa: E402

from fence.store.database import open_engine  # noqa: E402
from fence.store.shows import ShowStore  # noqa: E402
from fence.web import create_app  # noqa: E402
from fence.web.serving import Server  # noqa: E402
from rigs import clashing_rig, large_show  # noqa: E402

TIMES = 15
ALLOWED_MS, ALLOWED_KB, ALLOWED_PREVIEW = 150, 400, 2.0

ECHO = """<!doctype html><title>Echo</title><p id="n">0</p><script>
document.addEventListener("keydown", async () => {
  const answer = await fetch("/echo", { method: "POST" });
  document.getElementById("n").textContent = await answer.text();
});</script>"""

PRESS = """
const [selector, key, done] = arguments;
const was = document.querySelector(selector).outerHTML;
const begin = performance.now();
const seen = () => {
  const now = document.querySelector(selector);
  if (!now || now.outerHTML === was) return requestAnimationFrame(seen);
  // this frame shows the change; the message is handled once it has been drawn
  const drawn = new MessageChannel();
  drawn.port1.onmessage = () => done(performance.now() - begin);
  drawn.port2.postMessage(0);
};
requestAnimationFrame(seen);
const target = document.activeElement || document.body;
target.dispatchEvent(new KeyboardEvent("keydown", { key: key, bubbles: true }));
"""


def echo_app() -> Flask:
    """A page whose keys are answered with a number that grows."""
    app = Flask("echo")
    count = [0]

    @app.get("/")
    def page() -> str:
        return ECHO

    @app.post("/echo")
    def echo() -> str:
        count[0] += 1
        return str(count[0])

    return app


def served(app: Flask) -> str:
    """Serve an application on a free port of this machine until the bench ends."""
    server = Server(app, "127.0.0.1", 0)
    threading.Thread(target=server.run, daemon=True).start()
    return f"http://127.0.0.1:{server.port}"


def pressed(driver: Chrome, selector: str, keys: tuple[str, str]) -> float:
    """The median time in milliseconds from a key to the drawn change, going back and forth."""
    driver.set_script_timeout(20)
    for key in keys:
        driver.execute_async_script(PRESS, selector, key)
    return median(driver.execute_async_script(PRESS, selector, keys[n % 2]) for n in range(TIMES))


def main() -> int:
    """Print the figures; exit 1 where one is missed."""
    with TemporaryDirectory() as folder, chromium() as driver:
        database = Path(folder) / "bench.db"
        store = ShowStore(open_engine(database))
        shown = store.create(large_show(2000, 64), who="Bench")
        clashing = store.create(clashing_rig(5000, 120, share=0.06), who="Bench")
        base = served(create_app(database))
        driver.get(served(echo_app()))
        echoed = pressed(driver, "#n", ("a", "a"))
        first = shown.show.fixtures[0].id
        driver.get(f"{base}/shows/{shown.id}/address?u=1&pick={first}")
        nudged = pressed(driver, "#board .run.picked", ("ArrowRight", "ArrowLeft"))
        size = (
            len(driver.execute_script("return fetch(location.href).then((r) => r.text())").encode())
            / 1000
        )
        begin = perf_counter()
        driver.get(f"{base}/shows/{clashing.id}/address/repair?u=1")
        preview = perf_counter() - begin
        store.engine.dispose()
    print(
        f"nudge by a key, 2,000 fixtures in 64 universes: {nudged:.0f} ms until drawn "
        f"({ALLOWED_MS} allowed)"
    )
    print(
        f"a page that only echoes: {echoed:.0f} ms; the nudge takes {nudged / echoed:.1f} times "
        "that"
    )
    print(f"size of the page: {size:.0f} kB ({ALLOWED_KB} allowed)")
    print(
        f"repair preview, 5,000 fixtures in 120 universes, first time: {preview:.2f} s "
        f"({ALLOWED_PREVIEW:.0f} allowed)"
    )
    return 0 if nudged <= ALLOWED_MS and size < ALLOWED_KB and preview < ALLOWED_PREVIEW else 1


if __name__ == "__main__":
    sys.exit(main())
