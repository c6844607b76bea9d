"""Does every screen look as before? Pictures of all screens, in both themes and two sizes, compared
pixel by pixel.

    python tools/same_look.py take FOLDER       takes the pictures of the sources as they are
    python tools/same_look.py compare OLD NEW   names the pictures that differ, and ends with 1

Times of day are made alike, and what moves stands still. Take them once before a change and once
after.
"""

from __future__ import annotations

import argparse
import sys
from collections.abc import Iterator
from io import BytesIO
from pathlib import Path
from tempfile import TemporaryDirectory

from PIL import Image, ImageChops

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT))

from tests.browser import chromium  # noqa: E402
from tests.browser.conftest import Page  # noqa: E402
from tests.browser.screens import DESK, DOUBTED, PHONE, SCREENS  # noqa: E402
from tests.talking import answered  # noqa: E402

STILL = """
const style = document.createElement("style");
style.textContent = "*, *::before, *::after { animation: none !important; " +
  "transition: none !important; caret-color: transparent !important; }";
document.head.append(style);
for (const time of document.querySelectorAll("time")) time.textContent = "0:00";
const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
while (walker.nextNode()) {
  const node = walker.currentNode;
  node.nodeValue = node.nodeValue.replace(/\\b\\d\\d:\\d\\d\\b/g, "00:00");
}
"""
READY = (
    "const done = arguments[0]; document.fonts.ready.then(() => requestAnimationFrame(() => "
    "done(1)));"
)
THEMES = ("dark", "light")


def pictures() -> Iterator[tuple[str, bytes]]:
    """Each screen by a name, with its picture."""
    with TemporaryDirectory() as folder:
        database = Path(folder, "show.db")
        with chromium.serving(database) as base, chromium.chromium() as browser:
            answered(database)
            page = Page(browser, base)
            for size in (DESK, PHONE):
                browser.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)
                for number, (path, script) in enumerate(SCREENS):
                    _open(page, path, script)
                    for theme in THEMES:
                        browser.execute_script(
                            f"document.documentElement.dataset.bsTheme = '{theme}'"
                        )
                        browser.execute_async_script(READY)
                        yield (
                            f"{number:02d}-{size['width']}-{theme}",
                            browser.get_screenshot_as_png(),
                        )


def _open(page: Page, path: str, script: str | None) -> None:
    page.open(path)
    page.one("h1")
    if page.has("#overview"):
        page.one("#overview .cards")
    if script:
        page.driver.execute_script(script)
        if script == DOUBTED:
            page.one(".settle")
        if "data-panel" in script:
            page.sees("Lily 3 ends", "#findings-list")
            page.wait(lambda: not page.has(".offcanvas.showing"), "the panel is not open")
        if "practice" in script:
            page.one(".try")
    page.driver.execute_script(STILL)


def take(folder: Path) -> int:
    """Take all pictures into a folder."""
    folder.mkdir(parents=True, exist_ok=True)
    for name, picture in pictures():
        (folder / f"{name}.png").write_bytes(picture)
    return 0


def compare(old: Path, new: Path) -> int:
    """Name what differs between two folders; 1 if anything does."""
    names = sorted({path.name for folder in (old, new) for path in folder.glob("*.png")})
    differ = 0
    for name in names:
        if not (old / name).exists() or not (new / name).exists():
            print(f"{name}: only in one of them")
            differ += 1
            continue
        before, after = (
            Image.open(BytesIO((folder / name).read_bytes())).convert("RGB")
            for folder in (old, new)
        )
        box = (
            (0, 0, 1, 1)
            if before.size != after.size
            else ImageChops.difference(before, after).getbbox()
        )
        if box is not None:
            print(f"{name}: {SCREENS[int(name[:2])][0]} differs in {box}")
            differ += 1
    print(f"{differ} of {len(names)} pictures differ")
    return 1 if differ else 0


def main() -> int:
    """Take pictures, or compare two folders of them."""
    parser = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    steps = parser.add_subparsers(dest="step", required=True)
    steps.add_parser("take").add_argument("folder", type=Path)
    comparing = steps.add_parser("compare")
    comparing.add_argument("old", type=Path)
    comparing.add_argument("new", type=Path)
    asked = parser.parse_args()
    return take(asked.folder) if asked.step == "take" else compare(asked.old, asked.new)


if __name__ == "__main__":
    raise SystemExit(main())
