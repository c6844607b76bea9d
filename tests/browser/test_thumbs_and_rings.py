"""A small show by keys alone and on a phone, and what else a thumb and the keys do."""

from __future__ import annotations

import re
from collections.abc import Iterator

import pytest
from selenium.webdriver import ActionChains, Keys

from tests.browser.conftest import Page
from tests.browser.screens import DESK, PHONE

pytestmark = pytest.mark.browser


@pytest.fixture
def phone(page: Page) -> Iterator[Page]:
    """The same on a phone held upright, with touch."""
    page.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", PHONE)
    page.driver.execute_cdp_cmd("Emulation.setTouchEmulationEnabled", {"enabled": True})
    try:
        yield page
    finally:
        page.driver.execute_cdp_cmd("Emulation.setTouchEmulationEnabled", {"enabled": False})
        page.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", DESK)


def tab_to(page: Page, selector: str, most: int = 40) -> None:
    """Press Tab until something has the focus, once the page stands with its scripts."""
    page.wait(
        lambda: page.driver.execute_script("return document.readyState") == "complete",
        "the page does not stand",
    )
    for _ in range(most):
        if page.driver.execute_script(
            "return document.activeElement.matches(arguments[0])", selector
        ):
            return
        page.press(Keys.TAB)
    raise AssertionError(f"{selector} is not reached in {most} steps of Tab")


def test_a_small_show_by_keys_alone(page: Page) -> None:
    """From no show at all to twelve fixtures, a clash seen and mended, undone with Ctrl and Z, and
    the list."""
    page.open("/")
    tab_to(page, "#name")
    page.press("Night", Keys.ENTER)
    page.sees("Night", ".show-name")
    page.press("g", "r")
    page.sees("No fixtures yet", "#work")
    page.press("a")
    tab_to(page, "#kind")
    page.press("Tansy Pond Wash, 8")
    tab_to(page, "#quantity")
    page.press("6")
    tab_to(page, "#label")
    page.press("Fern 1")
    page.sees("All clear", "#landing")
    tab_to(page, "#add-more")
    page.press(Keys.ENTER)
    page.sees("Added 6 fixtures, Fern 1 to Fern 6", ".said")
    page.press(Keys.TAB)
    tab_to(page, "#label")
    page.press("Moss 1", Keys.TAB, Keys.TAB, Keys.TAB, "1/45", Keys.ENTER)
    page.sees("new stop", "h1")
    tab_to(page, "#do-and-repair")
    page.press(Keys.ENTER)
    page.sees("Added Moss 1", ".said")
    page.sees("0 stops", "#verdict")
    page.press("g", "a")
    page.one("a.run")
    page.driver.execute_script("document.activeElement.blur()")
    ActionChains(page.driver).key_down(Keys.CONTROL).send_keys("z").key_up(Keys.CONTROL).perform()
    page.wait(
        lambda: len(page.driver.find_elements("css selector", "a.run")) == 6,
        "the last step is not undone",
    )
    page.press("/")
    page.press("fern 3")
    page.one("#found a")
    page.press(Keys.ENTER)
    page.sees("Fern 3", "#inspector h2")
    page.press(Keys.ESCAPE)
    page.wait(
        lambda: page.driver.switch_to.active_element.get_attribute("id").startswith("run-"),
        "the focus fell",
    )
    page.press("g", "p")
    page.sees("Fern 6", ".paper-table")


def test_a_small_show_on_a_phone(phone: Page) -> None:
    """A show is made, filled and looked at with a thumb: rails fit the screen, facts come up from
    below, and go."""
    phone.open("/")
    phone.type("#name", "Yard")
    phone.one("#name").submit()
    phone.sees("Yard", ".show-name")
    phone.open(phone.driver.current_url.removeprefix(phone.base).split("/rig")[0] + "/rig/add")
    phone.choose("#kind", value="tansy-pond-wash | 8 channel")
    phone.type("#label", "Fern 1")
    phone.type("#quantity", "6")
    phone.click("#add-form .btn-primary")
    phone.sees("Added 6 fixtures", ".said")
    phone.click("#menu-button")
    phone.click('a[data-go="a"]')
    assert phone.one("svg.fence").get_attribute("data-pickets") == "32"
    phone.one("a.run").click()
    phone.sees("Fern 1", "#inspector h2")
    facts = phone.one("#inspector").rect
    run = phone.one("a.run.picked").rect
    assert facts["x"] == 0
    assert facts["width"] == 390
    page_top = phone.driver.execute_script("return scrollY")
    top = phone.driver.execute_script(
        "return document.getElementById('inspector').getBoundingClientRect().top"
    )
    assert 0 < run["y"] - page_top < top, "the run lies below its facts"
    phone.click("#leave")
    phone.wait(lambda: not phone.has(".inspector.from-below"), "the facts stay")
    assert not phone.one("#find").is_displayed()
    phone.click("#menu-button")
    phone.type("#find", "dip switches for 137")
    found = phone.one("#found a").rect
    assert found["x"] >= 0, "what is found lies beyond the screen"
    assert found["x"] + found["width"] <= 390
    phone.press(Keys.ESCAPE)
    phone.press(Keys.ESCAPE)
    phone.wait(lambda: not phone.one("#find").is_displayed(), "the menu stays")
    phone.press("/")
    phone.wait(lambda: phone.one("#find").is_displayed(), "the key finds nothing to type in")
    phone.open("/switches?address=97")
    phone.click("#tap-2")
    phone.wait(
        lambda: phone.one("#address").get_attribute("value") == "99", "the tap is not counted"
    )


@pytest.mark.parametrize("width", [900, 1200, 1280, 1600])
def test_no_column_lies_under_the_panel(page: Page, width: int) -> None:
    """Whatever is wider than its room scrolls in it; at 1280 nothing has to."""
    page.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", {**DESK, "width": width})
    page.open("/shows/2/rig")
    table, room, seen = page.driver.execute_script(
        "const around = document.querySelector('#rig-list .table-scroll');"
        "return [around.firstElementChild.offsetWidth, around.clientWidth,"
        " getComputedStyle(around).overflowX]"
    )
    page.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", DESK)
    assert table <= room or (seen == "auto" and width < 1280)


def test_a_new_show_is_one_tab_away(page: Page) -> None:
    """From the list of shows, however long, the first stop leads to the name of a new one."""
    page.open("/")
    page.press(Keys.TAB)
    assert page.driver.switch_to.active_element.text == "Go to New show"
    page.press(Keys.ENTER)
    page.wait(
        lambda: page.driver.switch_to.active_element.get_attribute("id") == "name",
        "the name is not reached",
    )
    page.press("Yard")
    page.press(Keys.ENTER)
    page.sees("Yard", ".show-name")


def test_a_preview_is_held_up_against_what_is_there(page: Page) -> None:
    """While h is held the fence shows the plan as it is; let go, as it would be. A layout follows
    the form live."""
    page.open("/shows/2/address/layout")
    page.one('[value="spaced"]').click()
    page.sees("As it would be", "#outcome .hold")
    shown = "return getComputedStyle(document.querySelector(arguments[0])).display"
    assert page.driver.execute_script(shown, ".now-then .now") == "none"
    ActionChains(page.driver).key_down("h").perform()
    page.wait(
        lambda: page.driver.execute_script(shown, ".now-then .now") != "none",
        "what is there is not shown",
    )
    assert page.driver.execute_script(shown, ".now-then .then") == "none"
    ActionChains(page.driver).key_up("h").perform()
    page.wait(lambda: page.driver.execute_script(shown, ".now-then .now") == "none", "it stays")


def test_single_keys_can_be_switched_off(page: Page) -> None:
    """Switched off, a letter does nothing and Ctrl with Z still undoes; it is remembered."""
    page.open("/shows/2/address?u=2&pick=28")
    page.press("p")
    page.sees("Unpin", "#inspector")
    page.click("[data-keys]")
    page.click("#single-keys")
    page.press(Keys.ESCAPE)
    page.open("/shows/2/address?u=2&pick=28")
    page.press("p")
    ActionChains(page.driver).key_down(Keys.CONTROL).send_keys("z").key_up(Keys.CONTROL).perform()
    page.wait(lambda: "Unpin" not in page.text("#inspector"), "the pin is not undone")
    page.driver.execute_script("localStorage.clear()")


def test_a_switch_is_set_in_the_drill(page: Page) -> None:
    """A question to set an address is answered by tapping the switches that it needs."""
    page.open("/practise/drill/switches-set?seed=4")
    asked = int(re.findall(r"\d+", page.text("#asks"))[0])
    for number in range(1, 10):
        if asked >> (number - 1) & 1:
            page.click(f'[data-tap="{number}"]')
    page.click("#answer-it")
    page.sees("Right.", "#mark")
