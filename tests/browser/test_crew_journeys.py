"""A crew on one network: getting on, who is where, and a phone that walks out of reach and back."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from selenium.webdriver import Chrome, Keys

from fence.core import edits
from fence.core.model.address import Address
from fence.store.database import open_engine
from fence.store.people import People, Role
from fence.store.shows import ShowStore
from tests.browser.chromium import serving
from tests.browser.conftest import Page, forget
from tests.browser.gate import Gate, gate
from tests.browser.screens import TOO_SMALL
from tests.browser.test_accessibility import AXE, NO_RING, PALE, RUN
from tests.browser.test_set_journeys import tap
from tests.faults.conftest import Client

pytestmark = pytest.mark.browser

NARROW = {"width": 390, "height": 844, "deviceScaleFactor": 1, "mobile": True}
WIDE = {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False}
PASSWORD = "a quiet long night"


class Phone(Page):
    """A phone whose network can be switched off and on."""

    gate: Gate

    def out_of_reach(self) -> None:
        """Switch the network off, through the driver and on the way."""
        self.driver.set_network_conditions(
            offline=True, latency=0, download_throughput=0, upload_throughput=0
        )
        self.gate.shut()

    def back(self) -> None:
        """And on again."""
        self.gate.open = True
        self.driver.delete_network_conditions()

    def keeps(self, path: str) -> None:
        """Wait until a page is kept on the phone."""
        script = (
            "caches.open('fence-kept-1').then(c => c.match(arguments[0])).then(r => "
            "arguments[1](Boolean(r)))"
        )
        self.wait(lambda: self.driver.execute_async_script(script, path), f"{path} is not kept")


@pytest.fixture
def store(tmp_path: Path) -> Iterator[ShowStore]:
    """The same database as the server's, looked at from beside it."""
    found = ShowStore(open_engine(tmp_path / "crew.db"))
    yield found
    found.engine.dispose()


@pytest.fixture
def phone(browser: Chrome, tmp_path: Path, furnished: Path) -> Iterator[Phone]:
    """A phone held upright on a served demo, through a gate."""
    served = serving(tmp_path / "crew.db", furnished=furnished)
    with served as base, gate(int(base.rpartition(":")[2])) as way:
        forget(browser, base)
        browser.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", NARROW)
        found = Phone(browser, way.base)
        found.gate = way
        yield found
        way.open = True
        browser.delete_network_conditions()
        forget(browser, way.base)
        browser.get("about:blank")
        browser.get_log("browser")  # what the network refused is meant
        browser.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", WIDE)


def marks_of(store: ShowStore) -> list[str]:
    """What the log has since the demo was made, the oldest first."""
    return [entry.words for entry in reversed(store.history(3)) if entry.revision > 10]


def test_marks_made_out_of_reach_arrive_once_and_in_order(phone: Phone, store: ShowStore) -> None:
    """Three fixtures, a tick and a reading while off; back in reach each is there once, in order,
    though one answer was lost on its way; the phone says all the while how many wait."""
    phone.open("/shows/3/set")
    phone.driver.execute_script("return navigator.serviceWorker.ready.then(() => 1)")
    phone.open("/shows/3/set?at=Gatehouse")
    first = phone.text("#next-fixture").removeprefix("Next: ")
    show = store.get(3).show
    order = [one.label for one in show.fixtures if one.position == "Gatehouse"]
    fixture = next(one for one in show.fixtures if one.label == first)
    phone.keeps(f"/shows/3/set/{fixture.id}/says?at=Gatehouse")
    for one in show.fixtures:
        if one.label in ("Wall 2", "Lantern", "Vine 1", "Vine 2"):
            phone.keeps(f"/shows/3/set/{one.id}?at=Gatehouse")
    phone.out_of_reach()
    phone.click("#next-fixture")
    phone.sees(first, "h1")
    phone.sees("Out of reach", "#away")
    tap(phone, "#step-safety-bond")
    phone.sees("1 mark waits", "#away")
    walked = []
    for count in (2, 3, 4):
        walked.append(phone.text("h1"))
        phone.click("#set-next")
        phone.sees(f"{count} marks wait", "#away")
        # the count is told before the next card comes
        phone.wait(lambda: phone.text("h1") != walked[-1], "the next one does not come")
    assert walked == [label for label in order if label in walked]
    assert store.get(3).revision == 10
    phone.open(f"/shows/3/set/{fixture.id}/says?at=Gatehouse")
    phone.sees("Out of reach", "#away")
    phone.type("#typed", "123")
    phone.click("#look")
    phone.sees("5 marks wait", "#away")
    phone.gate.lose = f"POST /shows/3/set/{fixture.id}/mark"
    phone.back()
    phone.wait(lambda: store.get(3).revision == 15, "the marks do not arrive")
    phone.wait(
        lambda: (
            not phone.driver.execute_script(
                "return JSON.parse(localStorage['fence.waiting']).length"
            )
        ),
        "some wait",
    )
    assert phone.gate.lost == 1
    expected = [
        f"{first}: safety bond done",
        *(f"{label} set at the fixture" for label in walked),
        f"{first} says 123",
    ]
    assert marks_of(store) == expected
    phone.open("/shows/3/set")
    phone.wait(lambda: not phone.one("#away").is_displayed(), "it still says that something waits")


def test_the_plan_changed_while_the_phone_was_away(phone: Phone, store: ShowStore) -> None:
    """What was set is kept as it was set; the fixture stands among those to go back to, and both
    addresses are seen."""
    phone.open("/shows/3/set/58")
    phone.driver.execute_script("return navigator.serviceWorker.ready.then(() => 1)")
    phone.keeps("/shows/3/set/58")
    following = phone.driver.execute_script(
        "return document.getElementById('set-next').form.dataset.next"
    )
    phone.keeps(following)
    seen = phone.text("[data-address]")
    phone.out_of_reach()
    saved = store.get(3)
    store.save(saved, edits.place(saved.show, 58, Address(2, 300)), who="Planner")
    phone.click("#set-next")
    phone.sees("1 mark waits")
    phone.back()
    phone.wait(lambda: store.get(3).show.fixture(58).set_to is not None, "the mark does not arrive")
    set_to = store.get(3).show.fixture(58).set_to
    assert set_to is not None
    assert f"{set_to.patch[0].slot:03d}" == seen
    phone.open("/shows/3/set/58")
    phone.sees(f"stands at U4 {seen}", "#card-state")
    phone.sees("300", "[data-address]")


def test_an_owner_invites_a_crew_that_marks_and_is_sent_off(
    browser: Chrome, tmp_path: Path, furnished: Path
) -> None:
    """By keys: the code is read off, the crew joins on its phone, sees no button of the plan, marks
    under its name, and is out with the next click once the owner ends its log-in."""
    with serving(tmp_path / "door.db", furnished=furnished, names=("fence.test",)) as base:
        store = ShowStore(open_engine(tmp_path / "door.db"))
        page = Page(browser, base)
        forget(browser, base)
        page.open("/shows/3/set")
        page.sees("Log in", "h1")
        page.sees("Not encrypted")
        page.open(f"/join/{page_owner_code(tmp_path)}")
        page.press(Keys.TAB)
        page.one("#name").send_keys("Head of lights", Keys.TAB, PASSWORD, Keys.ENTER)
        page.sees("People", "h1")
        page.one("#invite").send_keys(Keys.ENTER)
        code = page.text("#code")
        owner = session_of(browser)
        become(page)
        page.open("/join")
        page.one("#code").send_keys(code.lower(), Keys.ENTER)
        page.one("#name").send_keys("Ladder crew A", Keys.TAB, PASSWORD, Keys.ENTER)
        page.sees("You are on, Ladder crew A")
        assert not page.one("form[action='/shows']").is_displayed()
        page.open("/shows/3/set")
        page.click("#next-fixture")
        page.click("#set-next")
        page.sees("is set.")
        assert store.history(3)[0].who == "Ladder crew A"
        page.open("/shows/3/address")
        page.one("svg.fence")
        assert not [
            one
            for one in browser.find_elements("css selector", "main form[method=post]")
            if one.is_displayed()
        ]
        crew = session_of(browser)
        become(page, owner)
        page.open("/people")
        page.one("[aria-label^='Log out: Ladder crew A']").send_keys(Keys.ENTER)
        page.sees("That browser is logged out.")
        become(page, crew)
        page.open("/shows/3/set")
        page.sees("Log in", "h1")
        store.engine.dispose()


def become(page: Page, login: dict[str, object] | None = None) -> None:
    """Be somebody else, or nobody, in the same browser. It is done on a page that asks for nothing:
    what the page before still asked for would bring its own log-in back."""
    forget(page.driver)
    page.open("/healthz")
    page.sees("ok")
    if login is not None:
        page.driver.add_cookie(login)


def session_of(browser: Chrome) -> dict[str, object]:
    """The cookie of the log-in, named by its database."""
    found: list[dict[str, object]] = browser.get_cookies()
    return next(one for one in found if re.fullmatch(r"fence_[0-9a-f]{10}", str(one["name"])))


def page_owner_code(folder: Path) -> str:
    """The invitation that the first start prints."""
    engine = open_engine(folder / "door.db")
    people = People(engine, ShowStore(engine).clock)
    code = people.invite_owner()
    assert people.invited(code) is not None
    assert re.fullmatch(r"[2-9A-Z]{12}", code)
    assert {one.role for one in people.invitations()} == {Role.OWNER}
    engine.dispose()
    return code


def test_two_crews_do_not_climb_to_the_same_truss(phone: Phone, store: ShowStore) -> None:
    """What another crew has open stands on the page without a reload, and what it marked
    meanwhile."""
    phone.open("/shows/3/set/58")
    crew = Client(phone.gate.target)
    crew.get("/")
    crew.post("/who", who="Ladder crew B")
    crew.get("/shows/3/set/here?fixture=58")
    phone.sees("Ladder crew B is at", "#here")
    phone.sees("here, too", "#here")
    saved = store.get(3)
    store.save(saved, edits.mark_set(saved.show, [59]), who="Ladder crew B", origin="Set")
    phone.sees("last: Vine 1 set at the fixture", "#here")
    phone.sees("Load it again", "#here")


def test_the_door_is_read_and_touched_by_everyone(
    browser: Chrome, tmp_path: Path, furnished: Path
) -> None:
    """Log-in, invitation, own page and people: no serious violation in either theme, a ring on
    whatever has the focus, nothing too small for a thumb or wider than a phone, with long names."""
    with serving(tmp_path / "door.db", furnished=furnished, names=("fence.test",)) as base:
        page = Page(browser, base)
        forget(browser, base)
        code = page_owner_code(tmp_path)
        found: dict[str, object] = {}

        def look(where: str) -> None:
            for theme in ("light", "dark"):
                page.click('form[action="/theme"] button')
                page.one(f'html[data-bs-theme="{theme}"]')
                browser.execute_script(AXE)
                if told := browser.execute_script(PALE):
                    found[f"{where} {theme}, pale"] = told
                if told := browser.execute_async_script(RUN, False):
                    found[f"{where} {theme}"] = told
                page.press(Keys.TAB)
                if told := browser.execute_script(NO_RING):
                    found[f"{where} {theme}, no ring"] = told
            browser.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", NARROW)
            browser.execute_cdp_cmd("Emulation.setTouchEmulationEnabled", {"enabled": True})
            small = browser.execute_script(TOO_SMALL)
            wide = browser.execute_script("return document.documentElement.scrollWidth")
            browser.execute_cdp_cmd("Emulation.setTouchEmulationEnabled", {"enabled": False})
            browser.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", WIDE)
            if small or wide > 390:
                found[f"{where}, small or wide"] = (wide, small)

        for path in ("/log-in", "/join", f"/join/{code}", "/join/AAAA"):
            page.open(path)
            look(path)
        page.open(f"/join/{code}")
        page.type("#name", "The head of lights of a house with a very long name at all")
        page.type("#password", PASSWORD)
        page.click("#join")
        page.sees("People", "h1")
        look("/people")
        page.open("/me")
        look("/me")
        page.open("/shows/3/set/58")
        look("a card")
    assert not found, "\n".join(f"{where}: {told}" for where, told in found.items())
