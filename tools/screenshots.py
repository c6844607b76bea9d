"""Take the pictures of docs/screenshots from the demo data, each view once, in a headless
browser."""

from __future__ import annotations

import sys
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from tempfile import TemporaryDirectory
from urllib.request import urlopen

from PIL import Image
from pypdfium2 import PdfDocument
from selenium.common.exceptions import StaleElementReferenceException
from selenium.webdriver import Chrome
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import Select, WebDriverWait

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT))

from tests.browser.chromium import chromium, serving  # noqa: E402
from tests.browser.gate import Gate, gate  # noqa: E402
from tests.wire.test_rdm import standing_in  # noqa: E402

from fence.core import edits  # noqa: E402
from fence.core.model.box import Protocol  # noqa: E402
from fence.core.model.show import Show  # noqa: E402
from fence.standins.rig import ask  # noqa: E402
from fence.store.database import open_engine  # noqa: E402
from fence.store.people import People, Role  # noqa: E402
from fence.store.shows import ShowStore, utc_now  # noqa: E402

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


STALE = (StaleElementReferenceException,)
"""What a page meets that is drawn anew while it is looked at."""
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
PRACTISED = "document.querySelectorAll('[name=practice]')[0].click()"
SYMPTOM = """
const whom = document.getElementById("whom");
whom.value = [...whom.options].find((one) => one.text.trim() === "Fern 5").value;
document.getElementById("symptom-dark").click();
"""
ANSWER = "document.getElementById('let').click()"
SHOTS = (
    Shot("paste", "/shows/2/charts/paste", "what “Ripple” does is not known", PASTED, size=TALL),
    Shot("choose-modes", "/shows/2/modes?goal=within&within=3", "What is recommended"),
    Shot("probe", "/shows/2/charts/probe", "Raise slot 8", PRACTISED, answers=7),
    Shot("address-clash", "/shows/2/address?pick=28", "U4"),
    Shot(
        "mend-preview",
        "/shows/2/address?u=3&pick=53",
        "Apply",
        "document.querySelector('.mend').click()",
    ),
    Shot("lines", "/shows/2/lines?line=1&stop=5", "20 fixtures go dark"),
    Shot("where-it-hangs", "/shows/1/rig/plan?fixture=9", "Where it hangs"),
    Shot("network", "/shows/2/network", "Gatehouse stays dark"),
    Shot("troubleshoot", "/shows/1/prove/troubleshoot", "Most likely", SYMPTOM),
    Shot("log", "/shows/3/log", "Hand over"),
)


SET_PHONES = (
    Shot("walk", "/shows/3/set", "to go back to", size=PHONE),
    Shot("switches", "/shows/3/set/59", "ON is down here", size=PHONE),
    Shot("display", "/shows/3/set/47", "It said 100", size=PHONE, light=True),
    Shot("says", "/shows/3/set/57/says?says=006", "Arch 2’s address", size=PHONE),
)
"""Side by side on one picture, as ``set-phones``."""
PASSWORD = "a quiet long night"
CREW = (
    ("Head of lights", Role.OWNER),
    ("Planner", Role.PLANNER),
    ("Ladder crew A", Role.CREW),
    ("Ladder crew B", Role.CREW),
    ("House", Role.READER),
)


def take(shot: Shot, base: str, target: Path | None = None) -> None:
    """Take one picture in a browser of its own."""
    target = target or TARGET / f"{shot.name}.png"
    with chromium(*shot.size) as driver:
        wait = WebDriverWait(driver, 15, ignored_exceptions=STALE)
        if shot.light:
            driver.get(base)
            driver.find_element(By.CSS_SELECTOR, 'form[action="/theme"] button').click()
            wait.until(
                lambda found: found.find_elements(By.CSS_SELECTOR, 'html[data-bs-theme="light"]')
            )
        driver.get(base + shot.path)
        if driver.find_elements(By.ID, "overview"):
            wait.until(lambda found: found.find_elements(By.CSS_SELECTOR, "#overview .card-u"))
        if shot.script:
            driver.execute_script(shot.script)
            for _ in range(shot.answers):
                wait.until(lambda found: found.find_elements(By.ID, "let"))
                driver.execute_script(ANSWER)
        wait.until(
            lambda found: shot.seen in found.find_element(By.TAG_NAME, "body").text, shot.name
        )
        wait.until(
            lambda found: (
                not found.find_elements(By.CSS_SELECTOR, ".offcanvas.showing, .htmx-request")
            )
        )
        driver.save_screenshot(str(target))
        print(target)


def side_by_side(name: str, parts: Sequence[Path]) -> None:
    """Put pictures of phones on one."""
    pictures = [Image.open(part) for part in parts]
    gap = 12
    width = sum(one.width for one in pictures) + gap * (len(pictures) - 1)
    whole = Image.new("RGB", (width, max(one.height for one in pictures)), "#7b8a90")
    left = 0
    for one in pictures:
        whole.paste(one, (left, 0))
        left += one.width + gap
    whole.save(TARGET / f"{name}.png")
    print(TARGET / f"{name}.png")


def take_crew(folder: Path) -> None:
    """On phones: logging in, marks that wait, who is where."""
    with (
        serving(folder / "crew.db", names=("fence.test",)) as base,
        gate(int(base.rpartition(":")[2])) as way,
    ):
        engine = open_engine(folder / "crew.db")
        people = People(engine, utc_now)
        for name, role in CREW:
            people.join(people.invite(role, hours=1, by=""), name, PASSWORD)
        with chromium(*PHONE) as other:
            log_in(other, base, "Ladder crew B")
            other.get(f"{base}/shows/3/set/58")
            with chromium(*PHONE) as driver:
                waiting(driver, way, folder)
        engine.dispose()
    side_by_side(
        "crew-phones", [folder / f"{name}.png" for name in ("log-in", "who-is-where", "waiting")]
    )


def log_in(driver: Chrome, base: str, name: str) -> None:
    """Name and password."""
    driver.get(f"{base}/log-in")
    driver.find_element(By.ID, "name").send_keys(name)
    driver.find_element(By.ID, "password").send_keys(PASSWORD)
    driver.find_element(By.ID, "log-in").click()


def waiting(driver: Chrome, way: Gate, folder: Path) -> None:
    """A phone that logs in, hears of another crew, and walks out of reach."""
    wait = WebDriverWait(driver, 15, ignored_exceptions=STALE)
    driver.get(f"{way.base}/log-in")
    driver.save_screenshot(str(folder / "log-in.png"))
    log_in(driver, way.base, "Ladder crew A")
    driver.get(f"{way.base}/shows/3/set?at=Gatehouse")
    driver.execute_script("return navigator.serviceWorker.ready.then(() => 1)")
    driver.get(f"{way.base}/shows/3/set/58?at=Gatehouse")
    wait.until(lambda found: "here, too" in found.find_element(By.ID, "here").text)
    driver.save_screenshot(str(folder / "who-is-where.png"))
    script = (
        "caches.open('fence-kept-1').then(c => c.match(arguments[0])).then(r => "
        "arguments[1](Boolean(r)))"
    )
    for fixture in (59, 60, 61):
        wait.until(
            lambda found, at=fixture: found.execute_async_script(
                script, f"/shows/3/set/{at}?at=Gatehouse"
            )
        )
    way.shut()
    for many in ("1 mark waits", "2 marks wait"):
        driver.find_element(By.ID, "set-next").click()
        wait.until(lambda found, words=many: words in found.find_element(By.ID, "away").text)
    driver.execute_script(
        "document.querySelector('#away details').open = true; document.activeElement.blur()"
    )
    driver.save_screenshot(str(folder / "waiting.png"))


def take_labels(base: str) -> None:
    """The first sheet of labels, as it is printed."""
    with urlopen(f"{base}/shows/3/set/labels.pdf?at=Gatehouse") as answer:
        document = PdfDocument(answer.read())
    page = document[0].render(scale=1.4).to_pil()
    page.crop((0, 0, page.width, page.height // 2)).save(TARGET / "labels.png")
    document.close()
    print(TARGET / "labels.png")


def take_prove(base: str, folder: Path) -> None:
    """One by one with the practice rig; faders and comparison while something is sent."""
    parts = (
        ("faders", "/shows/3/prove/faders?fixture=10", "faders"),
        ("tester", "/shows/3/prove/tester?u=1&slot=499", "remember"),
        ("compare", "/shows/3/prove/compare", "work"),
    )
    with chromium(*DESK) as driver:
        wait = WebDriverWait(driver, 20, ignored_exceptions=STALE)
        driver.get(f"{base}/shows/3/prove?at=Fern+Gully&fixture=10")
        driver.find_element(By.ID, "bring").click()
        wait.until(
            lambda found: "Fern 6 stays dark" in found.find_element(By.ID, "seen-words").text
        )
        wait.until(lambda found: "a second" in found.find_element(By.ID, "sending").text)
        driver.save_screenshot(str(TARGET / "prove.png"))
        print(TARGET / "prove.png")
        metrics = {"width": 900, "height": 760, "deviceScaleFactor": 1, "mobile": False}
        driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)
        for name, path, seen in parts:
            driver.get(base + path)
            wait.until(lambda found, there=seen: found.find_element(By.ID, there))
            driver.save_screenshot(str(folder / f"{name}.png"))
        phone = {"width": 390, "height": 760, "deviceScaleFactor": 1, "mobile": True}
        driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", phone)
        driver.get(f"{base}/shows/3/prove?at=Fern+Gully&fixture=10")
        driver.execute_script("document.getElementById('should').scrollIntoView()")
        driver.save_screenshot(str(folder / "phone.png"))
        driver.find_element(By.ID, "all-out").click()
    side_by_side(
        "prove-more", [folder / f"{name}.png" for name in ("faders", "tester", "compare", "phone")]
    )


def as_it_came(show: Show, ip: str) -> Show:
    """What is known of a rig whose fixtures have not spoken yet: those that cannot, and the box
    with the cables."""
    speaking = [
        f.id for f in show.fixtures if (profile := show.profile_of(f)) is not None and profile.rdm
    ]
    mute = edits.remove_fixtures(replace(show, name="Glasshouse, as it came"), speaking)
    box = replace(mute.boxes[1], ip=ip, protocol=Protocol.ARTNET, counts_from=0)
    mute = replace(mute, boxes=(box,), lines=())
    mute = edits.count_ports(mute, box.id, len(show.universes))
    return edits.give(mute, box.id, {n: u.number for n, u in enumerate(show.universes, 1)})


def take_talk(base: str, folder: Path) -> None:
    """Who answers beside the plan; a heap before, what it would become, and after; the hold."""
    store = ShowStore(open_engine(folder / "shots.db"))
    show, ip = store.get(1).show, "127.90.0.1"
    made = store.create(as_it_came(show, ip), who="Planner").id
    with standing_in(show, folder, ip, "heap") as port, chromium(*DESK) as driver:
        wait = WebDriverWait(driver, 40, ignored_exceptions=STALE)

        def sees(words: str) -> None:
            wait.until(lambda found: words in found.find_element(By.TAG_NAME, "body").text, words)

        driver.get(f"{base}/shows/{made}/rdm")
        driver.find_element(By.ID, "ask").click()
        sees("devices answered")
        driver.save_screenshot(str(folder / "heap.png"))
        driver.find_element(By.ID, "speak-first").click()
        sees("new fixtures")
        driver.save_screenshot(str(folder / "first.png"))
        driver.find_element(By.ID, "apply").click()
        sees("set and heard back")
        driver.save_screenshot(str(folder / "after.png"))
        driver.get(f"{base}/shows/{made}/rdm/hold")
        driver.find_element(By.ID, "hold").click()
        sees("devices held")
        for fixture, address in ((1, 300), (16, 12)):
            ask(ip, port, touch={"fixture": fixture, "address": address})
            sees(f"→ {address:03d} was changed at it: put back")
        driver.save_screenshot(str(folder / "hold.png"))
        driver.find_element(By.ID, "let-go").click()
        sees("It ended")
    in_a_square(
        "talk-heap", [folder / f"{name}.png" for name in ("heap", "first", "after", "hold")]
    )
    box = replace(show.boxes[1], ip="127.90.0.2", protocol=Protocol.ARTNET, counts_from=0)
    rigged = replace(show, name="Glasshouse, rigged", boxes=(box,), lines=())
    rigged = edits.give(edits.count_ports(rigged, box.id, 4), box.id, {1: 1, 2: 2, 3: 3, 4: 4})
    made = store.create(rigged, who="Planner").id
    with (
        standing_in(show, folder, "127.90.0.2", "no-rdm=Palm 2") as port,
        chromium(*TALL) as driver,
    ):
        wait = WebDriverWait(driver, 40, ignored_exceptions=STALE)
        for fixture, told in ((1, {"address": 49}), (4, {"address": 33}), (23, {"personality": 2})):
            ask("127.90.0.2", port, touch={"fixture": fixture, **told})
        driver.get(f"{base}/shows/{made}/rdm")
        for place in driver.find_elements(By.NAME, "place"):
            if place.is_selected() != (box.name in place.find_element(By.XPATH, "..").text):
                place.click()
        driver.find_element(By.ID, "ask").click()
        wait.until(lambda found: "devices answered" in found.find_element(By.TAG_NAME, "body").text)
        driver.save_screenshot(str(TARGET / "talk.png"))
        print(TARGET / "talk.png")


def in_a_square(name: str, parts: Sequence[Path]) -> None:
    """Put four pictures on one, two beside two."""
    pictures = [Image.open(part) for part in parts]
    wide, high = pictures[0].size
    whole = Image.new("RGB", (2 * wide + 12, 2 * high + 12), "#7b8a90")
    for place, one in enumerate(pictures):
        whole.paste(one, ((place % 2) * (wide + 12), (place // 2) * (high + 12)))
    whole.save(TARGET / f"{name}.png")
    print(TARGET / f"{name}.png")


def take_set(base: str, folder: Path) -> None:
    """The Set step on phones."""
    for shot in SET_PHONES:
        take(shot, base, folder / f"{shot.name}.png")
    side_by_side("set-phones", [folder / f"{shot.name}.png" for shot in SET_PHONES])


def take_practise(base: str, folder: Path) -> None:
    """Drills, an answer marked, a search under way, and both ways beside each other."""
    seen = "/shows/1/practise/drill/next-start?level=2&seed=7"
    with chromium(1000, 700) as driver:
        wait = WebDriverWait(driver, 40, ignored_exceptions=STALE)

        def shot(name: str) -> None:
            driver.save_screenshot(str(folder / f"{name}.png"))

        def click(name: str) -> None:
            wait.until(lambda found: found.find_element(By.ID, name)).click()

        def choose(name: str, words: str) -> None:
            wait.until(
                lambda found: (
                    Select(found.find_element(By.ID, name)).select_by_visible_text(words) or True
                )
            )

        driver.get(base)
        driver.find_element(By.CSS_SELECTOR, 'form[action="/theme"] button').click()
        driver.get(f"{base}{seen}")
        driver.find_element(By.ID, "answer").send_keys("1.39")
        click("answer-it")
        wait.until(lambda found: found.find_element(By.ID, "mark"))
        shot("marked")
        driver.get(f"{base}/shows/1/practise")
        shot("drills")
        driver.get(f"{base}/practise/cases/new")
        choose("trouble", "not set to DMX")
        choose("where", "Wash 2")
        click("hide-it")
        wait.until(lambda found: "wash 2 was dark" in found.page_source)
        driver.find_element(By.ID, "title").send_keys("The dark one")
        click("keep-case")
        click("start")
        wait.until(lambda found: found.find_element(By.ID, "complaint"))
        for name, whom, do in (
            ("fixture", "Wash 2", "do-power"),
            ("stop", "Wash 2, Line 1", "do-tester"),
            ("fixture", "Wash 2", "do-listens"),
        ):
            choose(name, whom)
            count = len(driver.find_elements(By.CSS_SELECTOR, ".find-steps li"))
            click(do)
            wait.until(
                lambda found, before=count: (
                    len(found.find_elements(By.CSS_SELECTOR, ".find-steps li")) > before
                )
            )
        choose("trouble", "not set to DMX")
        choose("where", "Wash 2")
        driver.execute_script("scrollTo(0, 0)")
        shot("search")
        click("claim")
        wait.until(lambda found: "It is mended" in found.page_source)
        click("over")
        wait.until(lambda found: found.find_element(By.ID, "mark"))
        shot("beside")
    in_a_square(
        "practise-light", [folder / f"{n}.png" for n in ("drills", "marked", "search", "beside")]
    )


def take_handover(base: str) -> None:
    """The first page of what a successor is given."""
    with urlopen(f"{base}/shows/3/log/handover.pdf") as answer:
        document = PdfDocument(answer.read())
    document[0].render(scale=1.4).to_pil().save(TARGET / "handover.png")
    document.close()
    print(TARGET / "handover.png")


def main() -> None:
    """Take all pictures, or those whose names are given."""
    TARGET.mkdir(parents=True, exist_ok=True)
    asked = sys.argv[1:]
    wanted = [shot for shot in SHOTS if not asked or shot.name in asked]
    with TemporaryDirectory() as folder, serving(Path(folder) / "shots.db") as base:
        for shot in wanted:
            take(shot, base)
        others: dict[str, Callable[[], None]] = {
            "labels": lambda: take_labels(base),
            "handover": lambda: take_handover(base),
            "set-phones": lambda: take_set(base, Path(folder)),
            "crew-phones": lambda: take_crew(Path(folder)),
            "prove": lambda: take_prove(base, Path(folder)),
            "talk": lambda: take_talk(base, Path(folder)),
            "practise-light": lambda: take_practise(base, Path(folder)),
        }
        for name, taking in others.items():
            if not asked or name in asked:
                taking()


if __name__ == "__main__":
    main()
