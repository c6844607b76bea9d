"""First paint in the browser: forty pages of the demo, each beside a page with nothing on it.

    python bench/paint.py

Wanted: each below 300 ms here; scripts up to 150 kB, styles up to 60 kB beyond Bootstrap, as they
are sent (packed).
"""

from __future__ import annotations

import gzip
import sys
import tempfile
from pathlib import Path
from statistics import median

sys.path.insert(0, str(Path(__file__).parent.parent))

from tests.browser.chromium import chromium, serving
from tests.browser.screens import SCREENS

from fence.web.assets import STATIC, STYLES

PAGES, ROUNDS = 40, 3
PAINTED = """
const [one] = performance.getEntriesByName("first-contentful-paint");
return one ? one.startTime : null;
"""
LEAST = "/healthz"


def paints(driver, address: str) -> float:
    """Milliseconds from asking for a page to its first paint with something on it."""
    driver.get(address)
    found = None
    while found is None:
        found = driver.execute_script(PAINTED)
    return float(found)


def main() -> None:
    """Walk the pages, print the slowest, the middle, and what ships."""
    places = list(dict.fromkeys(path for path, _ in SCREENS))[:PAGES]
    with (
        tempfile.TemporaryDirectory() as folder,
        serving(Path(folder) / "paint.db") as base,
        chromium() as driver,
    ):
        least = median(paints(driver, base + LEAST) for _ in range(5))
        took = {path: median(paints(driver, base + path) for _ in range(ROUNDS)) for path in places}
    order = sorted(took, key=lambda path: -took[path])
    for path in order[:8]:
        print(f"{took[path]:6.0f} ms  {took[path] / least:4.1f} ×  {path}")
    middle = median(took.values())
    print(f"{len(places)} pages: the middle {middle:.0f} ms, {middle / least:.1f} × an empty one")
    scripts = b"".join(path.read_bytes() for path in (STATIC / "js").glob("*.js"))
    styles = b"".join((STATIC / "css" / f"{name}.css").read_bytes() for name in STYLES)
    for name, data in (("scripts", scripts), ("styles", styles)):
        print(f"{name}: {len(data) / 1000:.0f} kB, {len(gzip.compress(data)) / 1000:.0f} kB packed")


if __name__ == "__main__":
    main()
