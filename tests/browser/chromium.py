"""Headless Chromium with a fresh profile, and a Fence server on a free port of this machine."""

from __future__ import annotations

import shutil
import threading
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from pathlib import Path
from tempfile import mkdtemp
from typing import Any

from flask import Flask, request
from selenium import webdriver
from selenium.webdriver.chrome.service import Service

from fence.cli.serving import make_demo
from fence.web import create_app
from fence.web.serving import Server

SHELL = Path("/usr/lib/chromium/chromium-headless-shell")
"""Chromium without the windows that nobody sees here: the same engine, for two thirds of the
processor. Debian has it in a package of its own."""
WITH_A_PAGE = Path(__file__).with_name("shell.sh")
FLAGS = (
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
FRUGAL = (
    "--in-process-gpu",
    "--num-raster-threads=1",
    "--js-flags=--max-lazy --single-threaded-gc",
)
"""For tests, whose pages live for a second: nothing is made ready that would pay off later. What is
timed does without."""


def save_to(driver: webdriver.Chrome, folder: Path) -> None:
    """Say where files go that are saved; it lasts as long as the tab in which it was said."""
    allowed = {"behavior": "allow", "downloadPath": str(folder)}  # codespell:ignore behavior
    driver.execute_cdp_cmd("Browser.setDownloadBehavior", allowed)


@contextmanager
def chromium(
    width: int = 1280, height: int = 800, downloads: Path | None = None, *, frugal: bool = False
) -> Iterator[webdriver.Chrome]:
    """A browser that is closed again, its profile thrown away. ``frugal`` takes less of the
    processor, and tells nothing of speed."""
    profile = mkdtemp(prefix="fence-chromium-")
    options = webdriver.ChromeOptions()
    if SHELL.exists():
        options.binary_location = str(WITH_A_PAGE)
    else:
        options.binary_location = shutil.which("chromium") or "/usr/bin/chromium"
        options.add_argument("--headless=new")
    own = FRUGAL if frugal else ()
    for flag in (*FLAGS, *own, f"--user-data-dir={profile}", f"--window-size={width},{height}"):
        options.add_argument(flag)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    service = Service(shutil.which("chromedriver") or "/usr/bin/chromedriver")
    driver = webdriver.Chrome(options=options, service=service)
    try:
        metrics = {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False}
        driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)
        if downloads:
            save_to(driver, downloads)
        yield driver
    finally:
        driver.quit()
        shutil.rmtree(profile, ignore_errors=True)


_left: list[int] = []
"""Ports whose servers have ended."""


def _listening(app: Flask) -> Server:
    """A server at the port of one that ended, where there is one: the browser still has the styles
    and scripts that it loaded from there."""
    while _left:
        with suppress(OSError):  # somebody else has taken it
            return Server(app, "127.0.0.1", _left.pop())
    return Server(app, "127.0.0.1", 0)


def _note(asked: list[str]) -> None:
    asked.append(f"{request.headers.get('Sec-Purpose', '')} {request.path}".strip())


@contextmanager
def serving(
    database: Path,
    *,
    demo: bool = True,
    furnished: Path | None = None,
    names: Sequence[str] = (),
    asked: list[str] | None = None,
    config: Mapping[str, Any] | None = None,
) -> Iterator[str]:
    """Fence on a free loopback port; gives its address. The demo is made, or copied from a database
    that has it. ``asked`` takes what each request was for, and its path; ``config`` overrides
    settings."""
    if furnished is not None:
        shutil.copyfile(furnished, database)
    app = create_app(database, config, names=names)
    if demo and furnished is None:
        make_demo(app.extensions["fence_pages"].store)
    if asked is not None:
        app.before_request(lambda: _note(asked))
    server = _listening(app)
    app.config["BASES"] = tuple(f"http://{name}:{server.port}" for name in names)
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    try:
        yield f"http://127.0.0.1:{server.port}"
    finally:
        server.stop()
        thread.join(timeout=15)
        _left.append(server.port)
        app.extensions["fence_sender"].close()
        app.extensions["fence_rigs"].end()
        app.extensions["fence_hunts"].end()
        app.extensions["fence_pages"].store.engine.dispose()
