"""Headless Chromium with a fresh profile, and a Fence server on a free port of this machine."""

from __future__ import annotations

import shutil
import threading
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from tempfile import mkdtemp

from selenium import webdriver
from selenium.webdriver.chrome.service import Service

from fence.cli.serving import make_demo
from fence.web import create_app
from fence.web.serving import Server

FLAGS = (
    "--headless=new",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-dev-shm-usage",
    "--hide-scrollbars",
    "--force-prefers-reduced-motion",
    "--disable-extensions",
    "--disable-features=Translate,MediaRouter,OptimizationHints,PaintHolding,BackForwardCache",
    "--disable-breakpad",
    "--disable-default-apps",
    "--mute-audio",
    "--disable-site-isolation-trials",
    "--renderer-process-limit=1",
    "--no-zygote",
)


@contextmanager
def chromium(
    width: int = 1280, height: int = 800, downloads: Path | None = None
) -> Iterator[webdriver.Chrome]:
    """A browser that is closed again, its profile thrown away."""
    profile = mkdtemp(prefix="fence-chromium-")
    options = webdriver.ChromeOptions()
    options.binary_location = shutil.which("chromium") or "/usr/bin/chromium"
    for flag in (*FLAGS, f"--user-data-dir={profile}", f"--window-size={width},{height}"):
        options.add_argument(flag)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    if downloads:
        options.add_experimental_option("prefs", {"download.default_directory": str(downloads)})
    service = Service(shutil.which("chromedriver") or "/usr/bin/chromedriver")
    driver = webdriver.Chrome(options=options, service=service)
    try:
        metrics = {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False}
        driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)
        yield driver
    finally:
        driver.quit()
        shutil.rmtree(profile, ignore_errors=True)


@contextmanager
def serving(
    database: Path, *, demo: bool = True, furnished: Path | None = None, names: Sequence[str] = ()
) -> Iterator[str]:
    """Fence on a free loopback port; gives its address. The demo is made, or copied from a database
    that has it."""
    if furnished is not None:
        shutil.copyfile(furnished, database)
    app = create_app(database, names=names)
    if demo and furnished is None:
        make_demo(app.extensions["fence_pages"].store)
    server = Server(app, "127.0.0.1", 0)
    app.config["BASES"] = tuple(f"http://{name}:{server.port}" for name in names)
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    try:
        yield f"http://127.0.0.1:{server.port}"
    finally:
        server.stop()
        thread.join(timeout=15)
        app.extensions["fence_sender"].close()
        app.extensions["fence_rigs"].end()
        app.extensions["fence_hunts"].end()
        app.extensions["fence_pages"].store.engine.dispose()
