"""Pages that are asked for ahead, while their links are still pressed down."""

from __future__ import annotations

from pathlib import Path

import pytest
from selenium.webdriver import ActionChains, Chrome

from tests.browser.chromium import serving
from tests.browser.conftest import Page, forget

pytestmark = pytest.mark.browser

LINES = "#work-steps a[href='/shows/2/lines']"
HELD_BACK = "arguments[0].addEventListener('click', (e) => e.preventDefault(), {once: true})"
CAME = "return performance.getEntriesByType('navigation')[0].deliveryType"
SWITCHED = """
const form = document.querySelector("form[action$='/theme']");
fetch(form.action, {method: "POST", body: new FormData(form), redirect: "manual"})
  .then(arguments[0]);
"""
"""A change by the page itself, which stays where it is."""
THEME = "return document.documentElement.dataset.bsTheme"


def press(page: Page, asked: list[str]) -> ActionChains:
    """Press a link down until its page was asked for; gives what lets go of it."""
    before = asked.count("prefetch /shows/2/lines")
    ActionChains(page.driver).click_and_hold(page.one(LINES)).perform()
    page.wait(lambda: asked.count("prefetch /shows/2/lines") > before, "it is not asked for ahead")
    return ActionChains(page.driver).release()


def test_a_page_comes_while_its_link_is_pressed(
    browser: Chrome, tmp_path: Path, furnished: Path
) -> None:
    """It is asked for once. Asked for ahead and not gone to, it is let go with the next change:
    what is shown then is new."""
    asked: list[str] = []
    with serving(tmp_path / "ahead.db", furnished=furnished, asked=asked) as base:
        forget(browser, base)
        page = Page(browser, base)
        page.open("/shows/2/address")
        press(page, asked).perform()
        page.sees("Lines", "h1")
        assert browser.execute_script(CAME) == "navigational-prefetch"
        assert [one for one in asked if one.endswith("/lines")] == ["prefetch /shows/2/lines"]

        page.open("/shows/2/address")
        browser.execute_script(HELD_BACK, page.one(LINES))
        press(page, asked).perform()
        theme = browser.execute_script(THEME)
        browser.execute_async_script(SWITCHED)
        page.click(LINES)
        page.sees("Lines", "h1")
        assert browser.execute_script(THEME) != theme
        browser.get("about:blank")
