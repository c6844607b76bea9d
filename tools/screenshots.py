"""Take the pictures of docs/screenshots from the demo data, each view once, in a headless browser."""

from __future__ import annotations

import sys
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryDirectory
from urllib.request import urlopen

from pypdfium2 import PdfDocument
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import WebDriverWait

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT))

from tests.browser.chromium import chromium, serving  # noqa: E402

from fence.demo import demo_show  # noqa: E402
from fence.standins.boxes import BoxesStandIn  # noqa: E402

TARGET = ROOT / "docs" / "screenshots"
DESK, PHONE, TALL = (1280, 800), (390, 844), (1280, 1160)


@dataclass(frozen=True)
class Shot:
    """A picture: where, what is done before it, and what must be seen on it."""

    name: str
    path: str
    seen: str
    script: str = ""
    size: tuple[int, int] = DESK
    light: bool = False
    answers: int = 0


PASTED = """
document.getElementById("maker").value = "Bramble";
document.getElementById("model").value = "Bog Wash";
document.getElementById("text").value = `BRAMBLE Bog Wash 60                         page 12
8 channel mode
CH   Function         Value      Meaning
1    Master dimmer    000-255    dark to full
2    Shutter          000-009    closed
                      010-255    open
3    Red              000-255
4    Green            000-255
5    Blue             000-255
6    Ripple           000-127    still
                      128-255    moving
7    Colour wheel     000-015    open
                      016-127    moss, fern, reed
                      128-255    flow
8    Zoom             000-255    narrow to wide`;
document.getElementById("text").dispatchEvent(new Event("input", {bubbles: true}));
"""
TRIED = "/shows/2/address/trial?tried=1&kind=dibber-furrow+%7C+24+channel&quantity=12&position=Canopy+Walk"
PRACTISED = "document.querySelectorAll('[name=practice]')[0].click()"
ANSWER = "document.getElementById('let').click()"
THERE = "127.0.0.35"
LOOKED = f"""
document.getElementById("bind").value = "127.0.0.1";
document.getElementById("to").value = "{THERE}";
document.getElementById("look").click();
"""
SHOTS = (
    Shot("shows", "/", "Glasshouse After Dark, clean"),
    Shot("paste", "/shows/2/charts/paste", "what “Ripple” does is not known", PASTED, size=TALL),
    Shot("modes", "/shows/2/charts/tansy-pond-wash/modes", "Loses"),
    Shot("choose-modes", "/shows/2/modes?goal=within&within=3", "What is recommended"),
    Shot("probe", "/shows/2/charts/probe", "Raise slot 8", PRACTISED, answers=7),
    Shot("address-clash", "/shows/2/address?pick=28", "U4"),
    Shot("mend-preview", "/shows/2/address?u=3&pick=53", "Do it", "document.querySelector('.mend').click()"),
    Shot("what-if-light", TRIED, "It fits", light=True),
    Shot("lines", "/shows/2/lines?line=1&stop=5", "20 fixtures go dark"),
    Shot("lines-day", "/shows/2/lines/day", "Flat at 18:00"),
    Shot("network", "/shows/2/network", "Gatehouse stays dark"),
    Shot("network-found", "/shows/1/network/look", "differs", LOOKED),
    Shot("network-card-phone", "/shows/2/network/cards/2", "so it gives U5", size=PHONE),
    Shot("two-moments", "/shows/3/log/compare?first=3", "3 to be set again"),
    Shot("set-walk-phone", "/shows/3/set", "to go back to", size=PHONE),
    Shot("set-switches-phone", "/shows/3/set/59", "ON is down here", size=PHONE),
    Shot("set-display-phone-light", "/shows/3/set/47", "It said 100", size=PHONE, light=True),
    Shot("set-says-phone", "/shows/3/set/57/says?says=006", "Arch 2’s address", size=PHONE),
)


def take(shot: Shot, base: str) -> None:
    """Take one picture in a browser of its own."""
    with chromium(*shot.size) as driver:
        wait = WebDriverWait(driver, 15)
        if shot.light:
            driver.get(base)
            driver.find_element(By.CSS_SELECTOR, 'form[action="/theme"] button').click()
            wait.until(lambda found: found.find_elements(By.CSS_SELECTOR, 'html[data-bs-theme="light"]'))
        driver.get(base + shot.path)
        if driver.find_elements(By.ID, "overview"):
            wait.until(lambda found: found.find_elements(By.CSS_SELECTOR, "#overview .card-u"))
        if shot.script:
            driver.execute_script(shot.script)
            for _ in range(shot.answers):
                wait.until(lambda found: found.find_elements(By.ID, "let"))
                driver.execute_script(ANSWER)
        wait.until(lambda found: shot.seen in found.find_element(By.TAG_NAME, "body").text, shot.name)
        wait.until(lambda found: not found.find_elements(By.CSS_SELECTOR, ".offcanvas.showing, .htmx-request"))
        driver.save_screenshot(str(TARGET / f"{shot.name}.png"))
        print(TARGET / f"{shot.name}.png")


@contextmanager
def answering() -> Iterator[None]:
    """The boxes of the demo with problems, answering on loopback."""
    standin, ready = BoxesStandIn(demo_show(), THERE), threading.Event()
    thread = threading.Thread(target=standin.serve, args=(ready,), daemon=True)
    thread.start()
    ready.wait(10)
    try:
        yield
    finally:
        standin.stop()
        thread.join(10)


def take_labels(base: str) -> None:
    """The first sheet of labels, as it is printed."""
    with urlopen(f"{base}/shows/3/set/labels.pdf?at=Gatehouse&base=http://192.168.1.20:5080") as answer:
        document = PdfDocument(answer.read())
    page = document[0].render(scale=1.4).to_pil()
    page.crop((0, 0, page.width, page.height // 2)).save(TARGET / "labels.png")
    document.close()
    print(TARGET / "labels.png")


def main() -> None:
    """Take all pictures, or those whose names are given."""
    TARGET.mkdir(parents=True, exist_ok=True)
    wanted = [shot for shot in SHOTS if not sys.argv[1:] or shot.name in sys.argv[1:]]
    with TemporaryDirectory() as folder, serving(Path(folder) / "shots.db") as base, answering():
        for shot in wanted:
            take(shot, base)
        if not sys.argv[1:] or "labels" in sys.argv[1:]:
            take_labels(base)


if __name__ == "__main__":
    main()
