"""At the fixture, on a phone held upright: a position to its end, a reading mended both ways, a
change of plan."""

from __future__ import annotations

import pytest
from selenium.webdriver import Keys

from tests.browser.conftest import Page
from tests.browser.test_thumbs_and_rings import phone

__all__ = ["phone"]

pytestmark = pytest.mark.browser


def tap(phone: Page, selector: str) -> None:
    """Scroll to the middle of the screen, as a thumb does, and tap."""
    phone.driver.execute_script(
        "arguments[0].scrollIntoView({block: 'center'})", phone.one(selector)
    )
    phone.click(selector)


def test_a_position_is_walked_to_its_end(phone: Page) -> None:
    """One fixture a screen, the next by itself, back on the list at the end; one tap takes the last
    mark back."""
    phone.open("/shows/3/set")
    phone.sees("to go back to")
    phone.click("a.pill[href*='Gatehouse']")
    phone.click("#next-fixture")
    tap(phone, "#step-safety-bond")
    phone.one("#step-safety-bond[aria-pressed=true]")
    phone.click("#undo-button")
    phone.one("#step-safety-bond[aria-pressed=false]")
    seen = []
    while phone.has("#set-next"):
        seen.append(phone.text("h1"))
        tap(phone, "#step-safety-bond")
        phone.one("#step-safety-bond[aria-pressed=true]")
        label = phone.text("h1")
        phone.click("#set-next")
        phone.sees(f"{label} is set.")
    assert seen == ["Wall 2", "Lantern", "Vine 1", "Vine 2", "Gate A", "Gate B"]
    phone.sees("9 of 9 set")
    phone.click("#undo-button")
    phone.sees("8 of 9 set")
    assert "Next: Gate B" in phone.text("#next-fixture")


def test_switches_that_say_something_else_are_mended_both_ways(phone: Page) -> None:
    """Tapped as they are seen, from below: named, set at the fixture; another one is planned as it
    says."""
    phone.open("/shows/3/set/59")
    phone.sees("1, 3, 6 and 7 on")
    phone.click("#says")
    for number in (2, 3, 6, 8):
        phone.click(f"[data-tap='{number}']")
    phone.click("#look")
    phone.sees("From the wrong end", "#cause")
    phone.sees("101 is the planned address", "#cause")
    phone.click("#set-now")
    phone.sees("It said 166 when it was read")
    phone.click("#set-next")
    phone.sees("Vine 1 is set.")
    phone.open("/shows/3/set/57/says")
    phone.type("#typed", "300")
    phone.press(Keys.ENTER)
    phone.sees("Mis-set", "#cause")
    phone.click("#plan-it")
    phone.sees("is planned at U4 300")
    assert phone.text(".big-number") == "U4 300"


def test_segments_are_tapped_as_they_are_lit(phone: Page) -> None:
    """The display of a fixture that hangs upside down, without typing."""
    phone.open("/shows/3/set/47/says")
    phone.click(".segments summary")
    for place, lit in enumerate(("bc", "abcdef", "abcdef")):
        for segment in lit:
            tap(phone, f"[data-pad='{place}'] [data-seg='{segment}']")
    phone.click("#look")
    phone.sees("Seen upside down, and right", "#cause")
    phone.click("#note-right")
    phone.sees("Noted: Canopy 1 says 001")
    assert phone.text("#card-state") == "set"


def test_a_change_of_the_plan_makes_a_list_of_those_to_go_back_to(page: Page) -> None:
    """Seen in the preview, then first on the walk, and printable; by keys from the walk on."""
    page.open("/shows/3/address/layout?school=spaced&spare=3&whom=Palm+House&start=1/1")
    page.sees("3 fixtures that are set would have to be set again: 3 at Palm House (6 m up).")
    page.click("#apply")
    page.sees("Undo")
    page.press("g", "s")
    page.sees("6 to go back to")
    page.press("n")
    first = page.text("h1")
    page.press("b")
    page.sees(f"{first} is set.")
    page.press("i")
    page.one("#typed, [data-tap]")
    page.open("/shows/3/set/labels?only=again")
    assert page.one("input[name=only]").is_selected()
    page.choose("#at", "Palm House")
    assert "sheets.pdf" in (page.one("#sheets-pdf").get_attribute("formaction") or "")


def test_the_round_keeps_what_is_typed_while_steps_are_ticked(phone: Page) -> None:
    """Its serial number is read off first, then its steps are ticked; then the next one's turn
    comes, with nothing typed yet."""
    phone.open("/shows/3/set/round")
    phone.sees("Spore 1", ".numbers")
    phone.type("#serial", "NB-017")
    tap(phone, "#shown")
    for step in ("#step-listens-to-DMX", "#step-mode", "#step-safety-bond"):
        tap(phone, step)
        phone.one(f"{step}[aria-pressed=true]")
    tap(phone, "#turn")
    phone.one("#turn[aria-pressed=true]")
    assert phone.one("#serial").get_property("value") == "NB-017"
    assert phone.one("#shown").is_selected()
    phone.click("#round-next")
    phone.sees("Spore 2", ".numbers")
    assert phone.one("#serial").get_property("value") == ""
    assert not phone.one("#shown").is_selected()
