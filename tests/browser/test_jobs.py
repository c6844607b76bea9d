"""Ten jobs of every day, from an empty database, with the clicks and keys that they take: never
more than ``jobs.md`` says, at a desk, on a phone, and by keys alone."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path

import pytest
from selenium.webdriver import ActionChains, Chrome, Keys

from fence.core.checks import Finding, analyse
from fence.core.model.show import Show
from fence.store.database import open_engine
from fence.store.shows import ShowStore
from tests.browser.chromium import serving
from tests.browser.conftest import OPTION, Page
from tests.browser.screens import DESK, PHONE

pytestmark = pytest.mark.browser

TABLE = (Path(__file__).parent / "jobs.md").read_text(encoding="utf-8")
MOST = {name: int(most) for name, most in re.findall(r"^\| (.+?) \| (\d+) \|$", TABLE, re.M)}


@dataclass
class Hands:
    """A person at a page who is counted."""

    page: Page
    database: Path
    spent: int = 0
    jobs: dict[str, int] = field(default_factory=dict)

    def press(self, selector: str) -> None:
        """One click."""
        self.spent += 1
        self.page.click(selector)

    def type(self, selector: str, text: str, *, enter: bool = False) -> None:
        """One click into a field, and what is typed there; Enter counts as well."""
        self.spent += 1 + enter
        self.page.type(selector, text)
        if enter:
            self.page.one(selector).send_keys(Keys.ENTER)

    def choose(self, selector: str, words: str) -> None:
        """Two clicks: to open a list, and to choose."""
        self.spent += 2
        self.page.choose(selector, words)

    def show(self) -> Show:
        """The first show as it stands."""
        return ShowStore(open_engine(self.database)).get(1).show

    def over(self, job: str) -> None:
        """What has been spent since the last job ended was this one's."""
        self.jobs[job] = self.spent
        self.spent = 0
        assert self.jobs[job] <= MOST[job], (job, self.jobs[job])


BEFORE = """
const wanted = document.querySelector(arguments[0]);
const kinds = "a[href], button, input, select, textarea, summary, [tabindex]";
const stops = [...document.querySelectorAll(kinds)].filter((one) => one === wanted ||
  one.tabIndex >= 0 && !one.disabled && one.type !== "hidden" && !one.closest("[inert]")
  && one.checkVisibility({visibilityProperty: true}));
const at = stops.indexOf(wanted);
if (at > 0) stops[at - 1].focus();
else document.activeElement.blur();
return [...stops.slice(Math.max(0, at - 1), at + 1)].map((one) => one.outerHTML.slice(0, 90));
"""
"""Puts the focus on what Tab comes to before an element."""
HAS_FOCUS = "return document.activeElement === document.querySelector(arguments[0])"


@dataclass
class KeyHands(Hands):
    """Somebody without a mouse: what is wanted is come to by Tab from what stands before it."""

    def reach(self, selector: str) -> None:
        """Have Tab come to an element; what it cannot come to is no place for keys."""
        self.page.one(selector)
        told = self.page.driver.execute_script(BEFORE, selector)
        self.page.press(Keys.TAB)
        assert self.page.driver.execute_script(HAS_FOCUS, selector), (selector, told)

    def press(self, selector: str) -> None:
        """Enter; Space for what is ticked."""
        self.spent += 1
        self.reach(selector)
        ticked = self.page.one(selector).get_attribute("type") in ("checkbox", "radio")
        self.page.press(Keys.SPACE if ticked else Keys.ENTER)

    def type(self, selector: str, text: str, *, enter: bool = False) -> None:
        """Typed over what is there."""
        self.spent += 1 + enter
        self.reach(selector)
        ActionChains(self.page.driver).key_down(Keys.CONTROL).send_keys("a").key_up(
            Keys.CONTROL
        ).send_keys(text, *([Keys.ENTER] if enter else [])).perform()

    def choose(self, selector: str, words: str) -> None:
        """From the first of a list down to the one that is wanted."""
        self.spent += 2
        self.reach(selector)
        option = self.page.driver.execute_script(OPTION, self.page.one(selector), words)
        at = self.page.driver.execute_script("return arguments[0].index", option)
        self.page.press(Keys.HOME, *[Keys.ARROW_DOWN] * at)


@pytest.fixture(params=["desk", "phone", "keys"])
def hands(request: pytest.FixtureRequest, browser: Chrome, tmp_path: Path) -> Iterator[Hands]:
    """Somebody before an empty Fence."""
    size = PHONE if request.param == "phone" else DESK
    database = tmp_path / "jobs.db"
    with serving(database, demo=False) as base:
        browser.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)
        kind = KeyHands if request.param == "keys" else Hands
        yield kind(Page(browser, base), database)
        browser.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", DESK)


def new_show(hands: Hands, name: str, desk: str = "") -> None:
    hands.page.open("/")
    hands.type("#name", name, enter=not desk)
    if desk:
        if not hands.page.one("#ready").is_displayed():
            hands.press("#make summary, .card-form details summary")
        hands.choose("#ready", desk)
        hands.press("form[action$='/shows'] .btn-primary")
    hands.page.sees(name, ".show-name")


def add(hands: Hands, kind: str, count: int, label: str, *, start: str = "", more: bool) -> None:
    hands.choose("#kind", kind)
    hands.type("#quantity", str(count))
    hands.type("#label", label)
    if start:
        hands.type("#start", start)
    hands.press("#add-more" if more else "#add-form .btn-primary")
    hands.page.sees(f"Added {count} fixture", ".said")


def begin_adding(hands: Hands) -> None:
    hands.press("#add-fixtures, main .empty .btn-primary")
    hands.page.one("#kind")


def stops(show: Show) -> list[Finding]:
    """What is wrong with a show."""
    return [one for one in analyse(show).findings if one.severity == "stop"]


def go(hands: Hands, key: str, title: str) -> None:
    """To another step by its two keys, which count."""
    hands.spent += 2
    hands.page.press("g", key)
    hands.page.wait(lambda: title in hands.page.driver.title, f"{title} does not open")


def test_uplights(hands: Hands) -> None:
    """A desk of pages; five more; all of them upside down; and back."""
    new_show(hands, "Hall", "Bucket 12")
    begin_adding(hands)
    add(hands, "LED, RGBW", 8, "Up 1", more=False)
    hands.over("eight uplights on a desk with pages")
    show = hands.show()
    assert [fixture.start for fixture in show.fixtures] == list(range(1, 128, 16))
    assert not analyse(show).findings

    hands.press("input[name=picked]")
    hands.type("#copies", "3")
    hands.press("[value=duplicate]")
    hands.page.sees("Added 3 fixtures", ".said")
    hands.over("three more like the one that is there")
    assert [fixture.start for fixture in hands.show().fixtures[8:]] == [129, 145, 161]

    hands.press("[data-pick-all]")
    hands.press("[value=turn-over]")
    hands.page.sees("upside down", ".said")
    hands.over("all of them hung upside down")
    assert all(fixture.turned for fixture in hands.show().fixtures)

    hands.spent += 1
    hands.page.press("u")
    hands.page.wait(
        lambda: not any(fixture.turned for fixture in hands.show().fixtures), "it is not undone"
    )
    hands.over("what was done wrong taken back")


def test_three_runs(hands: Hands) -> None:
    """Round starts; another type for some; on a line; a node for them."""
    new_show(hands, "Yard")
    begin_adding(hands)
    add(hands, "dimmer, 1 channel", 6, "Front 1", more=True)
    add(hands, "LED, RGB ", 6, "Wash 1", start="101", more=True)
    add(hands, "Dimmer RGBAW+UV", 8, "Top 1", start="201", more=False)
    hands.over("six dimmers, six RGB and eight RGBAW+UV at round starts")
    starts = [fixture.start for fixture in hands.show().fixtures]
    assert (starts[0], starts[6], starts[12]) == (1, 101, 201)

    for at in (7, 8, 9, 10):
        hands.press(f"input[name=picked][value='{at}']")
    hands.choose("#kind", "LED, RGBW ")
    hands.press("[value=preview-kind]")
    hands.press("#change-and-mend")
    hands.page.wait(lambda: hands.show().fixtures[6].mode == "RGBW", "the type is not exchanged")
    hands.over("four fixtures of another type")
    show = hands.show()
    assert {show.footprints_of(fixture) for fixture in show.fixtures[6:10]} == {(4,)}
    assert not stops(show)

    go(hands, "l", "Lines")
    hands.type("#new-name", "Truss", enter=True)
    hands.type("#typed", "Front 1-6, Wash 1-6")
    hands.press("#chain")
    hands.page.sees("12 fixtures", "main")
    hands.over("twelve fixtures on a line by their ranges")
    assert len(hands.show().lines[0].stops) == 12

    go(hands, "n", "Network")
    hands.type("#new-ports", "12")
    hands.press("#add-box")
    hands.page.sees("12 ports", "main")
    hands.over("a node with twelve ports that gives out what is planned")
    (box,) = [box for box in hands.show().boxes if box.kind == "node"]
    assert [port.universe for port in box.ports if port.universe] == [1]


CHART = "1 Dimmer\n2 Red\n3 Green\n4 Blue\n5 Strobe 0-9 off 10-255 slow to fast"


def test_a_chart_and_what_overlaps(hands: Hands) -> None:
    """A type that nobody has yet; two runs of it at one place; and all of that mended."""
    new_show(hands, "Loft")
    hands.spent = 0
    go(hands, "c", "Charts")
    hands.press("a[href$='/charts/paste']")
    hands.type("#model", "Loft par")
    hands.type("#text", CHART)
    hands.press("main .btn-primary")
    hands.page.sees("Loft par", "#kind")
    hands.over("a chart out of a manual, and on to adding")

    add(hands, "Loft par", 4, "Par 1", more=True)
    hands.choose("#kind", "Loft par")
    hands.type("#quantity", "4")
    hands.type("#label", "Back 1")
    hands.type("#start", "3")
    hands.press("#add-form .btn-primary")
    hands.press("#do-anyway")
    hands.page.sees("Back 1", "main")
    hands.spent = 0
    go(hands, "a", "U1")
    hands.press("#repair, a[href*='/address/repair']")
    hands.press("#apply")
    hands.page.wait(lambda: not stops(hands.show()), "stops are left")
    hands.over("all that overlaps mended")
