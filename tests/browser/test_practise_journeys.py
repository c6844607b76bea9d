"""Practise in the browser: a round of drills by keys, a fault found on a phone, and a case that is
set, shared, solved and compared."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from selenium.webdriver import Chrome, Keys

from fence.core.practising.question import Kind
from fence.core.practising.register import ask
from fence.core.practising.schedule import BEGUN_A_ROUND
from fence.demo import back_room, clean_show
from tests.browser.conftest import Page
from tests.browser.screens import DESK, PHONE

pytestmark = pytest.mark.browser


def here(page: Page) -> str:
    """The path of the page that is open."""
    return page.driver.current_url.removeprefix(page.base)


def answer_by_keys(page: Page) -> None:
    """Answer the question that is open rightly, by keys alone."""
    key, query = re.search(r"/drill/([a-z-]+)\?(.*)", here(page)).groups()  # type: ignore[union-attr]
    level, seed = (int(re.search(rf"{name}=(\d+)", query)[1]) for name in ("level", "seed"))  # type: ignore[index]
    asked = ask(key, level, seed, clean_show(), back_room())
    if asked.kind is Kind.CHOICE:
        page.press(str(asked.choices.index(asked.right[0]) + 1))
    else:
        page.wait(
            lambda: page.driver.switch_to.active_element.get_attribute("id") == "answer",
            "the answer has not the focus",
        )
        page.press(Keys.END, *[Keys.BACKSPACE] * 6, asked.right[0], Keys.ENTER)
    page.sees("Right.", "#mark")


def test_a_round_of_drills_by_keys(page: Page) -> None:
    """From the letter that leads there, question after question, until the round is done."""
    page.open("/shows/1/rig")
    page.press("g", "d")
    page.sees("Practise", "h1")
    page.driver.execute_script("document.getElementById('go-on').focus()")
    page.press(Keys.ENTER)
    for _ in range(BEGUN_A_ROUND):
        page.wait(lambda: page.has("#drill-form"), "there is no question")
        answer_by_keys(page)
        page.wait(
            lambda: page.driver.switch_to.active_element.get_attribute("id") == "next-question",
            "the next one has not the focus",
        )
        page.press(Keys.ENTER)
        page.wait(lambda: not page.has("#mark"), "the mark does not go")
    page.open("/shows/1/practise")
    page.sees("Round 2: ")
    assert page.text("#work").count("1/1") == BEGUN_A_ROUND


def choose(page: Page, name: str, words: str) -> None:
    """Choose from a list by its words."""
    page.choose(name, words)


def set_case(page: Page, title: str) -> None:
    """Hide that a wash is deaf, by clicking."""
    page.open("/practise/cases/new")
    choose(page, "#trouble", "not set to DMX")
    choose(page, "#where", "Wash 2")
    page.click("#hide-it")
    page.sees("It will look like this: wash 2 was dark.")
    page.type("#title", title)
    page.click("#keep-case")
    page.sees(title, "h1")


def find_it(page: Page) -> None:
    """Look for the deaf wash as somebody would who begins at the wrong end."""
    page.sees("Wash 2 was dark.", "#complaint")
    choose(page, "#fixture", "Wash 2")
    page.click("#do-power")
    page.sees("Wash 2 has power")
    choose(page, "#stop", "Wash 2, Line 1")
    page.click("#do-tester")
    page.sees("The tester reads a signal at Wash 2 on Line 1")
    choose(page, "#trouble", "lamp, emitter or board dead")
    choose(page, "#where", "Wash 2")
    page.click("#claim")
    page.sees("That was not it.")
    choose(page, "#fixture", "Wash 2")
    page.click("#do-listens")
    page.sees("Wash 2 is not set to listen to DMX")
    choose(page, "#trouble", "not set to DMX")
    choose(page, "#where", "Wash 2")
    page.click("#claim")
    page.sees("It is mended.")
    choose(page, "#fixture", "Wash 2")
    page.click("#do-look")
    page.sees("Wash 2 was right")
    page.click("#over")
    page.sees("Found and mended.", "#mark")
    page.sees("Wash 2 is not set to listen to DMX.", "#it-was")
    page.sees("Troubleshoot: ")


def test_a_case_is_set_shared_solved_and_compared(
    page: Page, downloads: Path, browser: Chrome
) -> None:
    """Set by clicking, taken away as a file, removed, read again, solved on a phone; then it is
    seen who solved it how."""
    set_case(page, "The dark one")
    page.click("#as-file")
    file = downloads / "the-dark-one.json"
    page.wait(file.exists, "the file does not come")
    page.driver.execute_script("document.querySelector('details.more').open = true")
    page.click("#remove")
    page.sees("The case is removed.")
    page.one("#file").send_keys(str(file))
    page.click(".find-upload button")
    page.sees("The dark one", "h1")
    browser.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", PHONE)
    browser.execute_cdp_cmd("Emulation.setTouchEmulationEnabled", {"enabled": True})
    try:
        page.click("#start")
        find_it(page)
        assert browser.execute_script("return document.documentElement.scrollWidth") <= 390
        page.click("#another")
        page.sees("1 fault found so far.")
        page.click(".shows .open")
    finally:
        browser.execute_cdp_cmd("Emulation.setTouchEmulationEnabled", {"enabled": False})
        browser.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", DESK)
    page.click(".case-search summary")
    for words in ("found and mended", "Wash 2 has power", "that was not it", "7 steps"):
        page.sees(words, ".case-search")
