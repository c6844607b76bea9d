"""A hidden fault is found by answering only what the page asks, from what a rig with that fault
does; on a desk's screen and on a phone, and by two people at once."""

from __future__ import annotations

from typing import Any

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import Select

from fence.demo import clean_show
from tests.browser.conftest import Page
from tests.browser.screens import DESK, PHONE
from tests.core.troubleshooting.second import Field, Hidden, sends_for

pytestmark = pytest.mark.browser

PATH = "/shows/1/prove/troubleshoot"
MOST = 20


def asked(page: Page) -> dict[str, Any]:
    """The check that the page asks for, as its form names it."""
    form = page.one("#next-check form[action$='/note']")
    fields = {
        one.get_attribute("name"): one.get_attribute("value")
        for one in form.find_elements(By.CSS_SELECTOR, "input[type=hidden]")
    }
    show = clean_show()
    fixture = int(fields.get("fixture") or 0)
    return {
        "kind": fields["kind"],
        "fixture": show.fixture(fixture).label if fixture else None,
        "line": fields.get("line"),
        "stop": int(fields["stop"]) if fields.get("stop") else None,
        "box": fields.get("box"),
        "port": int(fields["port"]) if fields.get("port") else None,
        "sends": sends_for(show, fixture) if fields["kind"] == "look" else None,
        "answers": [],
    }


def reply(page: Page, told: list[dict[str, Any]]) -> None:
    """Answer as a person does: a tap, or what is read typed in."""
    before = page.text(".heading .faint")
    said = {item["answer"]: item["value"] for item in told}
    if "says" in said:
        page.type("#next-check #says", str(said["says"]))
        if said.get("mode"):
            Select(page.one("#next-check #mode")).select_by_visible_text(said["mode"])
        page.click("#said")
    elif "another" in said:
        Select(page.one("#next-check #other")).select_by_visible_text(said["another"])
        page.click("#next-check .search-reads button")
    else:
        page.click(f"#answer-{told[0]['answer']}")
    page.wait(lambda: page.text(".heading .faint") != before, "the answer was not kept")


def solved(page: Page, field: Field) -> str:
    """Answer what is asked until a cause is found; its words."""
    for _ in range(MOST):
        page.wait(
            lambda: page.has(".settled") or page.has("#next-check form[action$='/note']"),
            "nothing is asked and nothing is found",
        )
        if page.has(".settled"):
            return page.text(".settled h2")
        reply(page, field.answer(asked(page)))
    raise AssertionError("not found in time")


def begin(page: Page, label: str, symptom: str) -> None:
    """Say what is seen at first."""
    page.open(PATH)
    Select(page.one("#whom")).select_by_visible_text(label)
    page.click(f"#symptom-{symptom}")


FAULTS = (
    ("desk", "wrong-address", "161", "Fern 5 stands at 161."),
    ("desk", "blackout", "", "The desk is in blackout, or its grand master is down."),
    ("phone", "no-power", "", "Fern 5 has no power."),
    ("phone", "deaf", "", "Fern 5 is not set to listen to DMX."),
)


@pytest.mark.parametrize(("size", "trouble", "value", "words"), FAULTS)
def test_a_hidden_fault_is_found(
    page: Page, size: str, trouble: str, value: str, words: str
) -> None:
    """By answering what is asked, and nothing else."""
    show = clean_show()
    fixture = next(one.id for one in show.fixtures if one.label == "Fern 5")
    where = None if trouble == "blackout" else fixture
    field = Field(show, [Hidden(trouble, where, value=value)])
    metrics = PHONE if size == "phone" else DESK
    page.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)
    begin(page, "Fern 5", "dark")
    assert solved(page, field) == words
    wide = page.driver.execute_script("return document.documentElement.scrollWidth")
    assert wide <= metrics["width"]
    page.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", DESK)


def test_two_people_in_one_search(page: Page) -> None:
    """What each of them notes counts for both, and nothing is lost."""
    begin(page, "Fern 5", "dark")
    page.sees("1 piece of evidence")
    first = page.driver.current_window_handle
    page.driver.switch_to.new_window("tab")
    page.open(PATH)
    Select(page.one("#whom")).select_by_visible_text("Fern 6")
    page.click("#symptom-right")
    page.sees("2 pieces of evidence")
    page.driver.close()
    page.driver.switch_to.window(first)
    Select(page.one("#whom")).select_by_visible_text("Lily 2")
    page.click("#symptom-right")
    page.sees("3 pieces of evidence")
    for words in ("Fern 5 was dark", "Fern 6 was right", "Lily 2 was right"):
        page.sees(words)
