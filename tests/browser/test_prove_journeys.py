"""Proving by keys, the practice rig in a process of its own: a position, one in another mode, the
tester, all out."""

from __future__ import annotations

import pytest
from selenium.webdriver import Keys

from tests.browser.conftest import Page
from tests.browser.test_thumbs_and_rings import phone

__all__ = ["phone"]

pytestmark = pytest.mark.browser


def pick(page: Page, label: str) -> None:
    """Go to a fixture by its picture, which is drawn anew every second while something is sent."""
    find = f"document.querySelector(\"a.hung[aria-label^='{label} ']\")"
    page.wait(
        lambda: page.driver.execute_script(f"return {find} !== null"), f"{label} is not there"
    )
    page.driver.execute_script(
        f"{find}.dispatchEvent(new MouseEvent('click', {{bubbles: true, cancelable: true}}))"
    )
    page.sees(f"{label} should be", "#should")


def bring_up(page: Page, label: str) -> None:
    """Go to a fixture by its picture and bring it up with the space bar."""
    pick(page, label)
    page.click("#bring") if page.has("#bring") else page.press(" ")
    page.one("#right")


def goes_on(page: Page, words: str) -> bool:
    """Whether what comes after these words has come: the next look, or the end; a page that is
    only half there is neither."""
    there = page.text("body")
    if "All of these were looked at" in there:
        return True
    return page.has("#right") and page.text("#should") != words


def test_a_position_is_proven_by_keys(page: Page) -> None:
    """The space bar says yes, look by look, until the position is done; nothing is sent after the
    last one."""
    page.open("/shows/1/prove?at=Orchid+Room")
    page.sees("Nothing is sent yet")
    page.press(" ")
    seen: list[str] = []
    page.one("#right")
    while "All of these were looked at" not in page.text("body"):
        words = page.text("#should")
        if words not in seen:
            seen.append(words)
        page.sees("a second", "#sending") if len(seen) == 1 else None
        page.press(" ")
        page.wait(lambda words=words: goes_on(page, words), f"it does not go on after {words}")
    assert not page.has("#sending")
    labels = list(dict.fromkeys(words.split(" should")[0] for words in seen))
    assert len(labels) == len(page.driver.find_elements("css selector", "a.hung"))
    assert page.driver.find_elements("css selector", "a.hung[aria-label$='proven']")
    page.open("/shows/1/log")
    page.sees(f"{labels[-1]} proven")


def test_the_one_in_another_mode_is_found_by_what_it_does(page: Page) -> None:
    """It does something else than it ought to; the answer is noted as a sign; the comparison has it
    first."""
    page.open("/shows/1/prove?at=Fern+Gully")
    details = page.driver.find_elements("css selector", "details.more-of-it summary")
    details[-1].click()
    page.type("#fault", "wrong-mode=Fern 5:3 channel")
    page.one("#fault").send_keys(Keys.ENTER)
    page.sees("but for: wrong-mode=Fern 5:3 channel")
    page.open("/shows/1/prove?at=Fern+Gully")
    bring_up(page, "Fern 4")
    page.wait(lambda: page.has("a.hung.current polygon.cone:not(.unlit)"), "it does not light up")
    assert not page.has(".meanwhile")
    bring_up(page, "Fern 5")
    page.press("2")  # any answer but right leads on, so it is looked at once more
    page.sees("Noted until it is proven right: Fern 5")
    page.open("/shows/1/prove?at=Fern+Gully")
    pick(page, "Fern 5")
    page.driver.execute_script(
        "[...document.querySelectorAll('.looks button')].find(b => b.innerText === 'green').click()"
    )
    page.sees("Fern 5 does something else", "#seen-words")
    page.open("/shows/1/prove/compare")
    page.wait(
        lambda: (
            "1 fixture differs" in page.driver.find_element("id", "work").text
            or page.driver.refresh()
        ),
        "the one that differs is not told",
    )
    assert page.text("tr.differs th") == "Fern 5"
    page.open("/shows/1/log?fixture=Fern+5")
    page.sees("Fern 5 is not the one that lights up")


def test_the_tester_reads_the_tell_tale_and_all_goes_out(page: Page) -> None:
    """Slot 512 says which universe a cable carries; one key takes everything out, on every
    screen."""
    page.open("/shows/2/address/ways")
    page.click("input[name=on]")
    page.click("#save-tell-tale")
    page.sees("Levels to set at slot 512")
    page.open("/shows/2/prove?at=Fern+Gully")
    page.press(" ")
    page.one("#right")
    slot = page.text("a.hung.current .at")
    page.open(f"/shows/2/prove/tester?u=1&slot={slot}")
    page.sees("255", "#reading .n")
    page.sees("from 1 source: Fence (priority 50)", "#reading")
    page.open("/shows/2/prove/tester?u=1&slot=512")
    page.sees("Slot 512 says 1: this is U1, as it ought to be", "#reading")
    page.open(f"/shows/2/prove/tester?u=1&slot={slot}")
    page.sees("255", "#reading .n")
    page.click("#remember")
    page.sees("0 slots have changed since that moment", "#reading")
    page.open("/shows/2/rig")
    page.one("#all-out")
    page.open("/shows/2/prove")
    page.press("0")
    page.wait(lambda: not page.has("#sending"), "it is not out")
    assert not page.has("#sending")
    page.open("/shows/1/prove/tester?u=1&slot=65")
    page.wait(
        lambda: (
            "no signal" in page.driver.find_element("id", "reading").text or page.driver.refresh()
        ),
        "still sent",
    )


def test_proving_from_a_phone(phone: Page) -> None:
    """At the fixture: the question first, then the answers, each for a thumb; a fader sends what it
    is set to."""
    phone.open("/shows/3/prove?at=Fern+Gully")
    phone.click("#bring")
    phone.one("#right")
    top = phone.driver.execute_script(
        "return document.getElementById('right').getBoundingClientRect().bottom"
    )
    assert top < 844
    phone.click("#enough")
    phone.sees("Fern 1 is proven.")
    phone.open("/shows/3/prove/faders?fixture=7")
    phone.driver.execute_script(
        "const f = document.querySelectorAll('#faders input[type=range]'); f[1].value = 200;"
        "f[1].dispatchEvent(new Event('change', {bubbles: true}))"
    )
    phone.sees("200", "#faders li:nth-child(2)")
    phone.sees("the dimmer is down", "#faders")
    phone.click("#all-out")
    phone.wait(lambda: not phone.has("#sending"), "it is not out")


FAULTS = (
    "wrong-mode=Fern 5:3 channel",
    "wrong-address=Fern 5:161",
    "no-power=Fern 5",
    "plug-out=Fern 5",
)


def start_anew(page: Page, fault: str) -> None:
    """Start the practice rig anew, with a fault or without one."""
    page.open("/shows/1/prove?at=Fern+Gully")
    page.driver.find_elements("css selector", "details.more-of-it summary")[-1].click()
    page.type("#fault", fault)
    page.one("#fault").send_keys(Keys.ENTER)
    page.sees("The practice rig is started anew")


def said(page: Page, label: str, words: str, *, there: bool = True) -> None:
    """Wait until the picture says something of a fixture, or no more; it is drawn anew every
    second."""
    look = (
        f"return document.querySelector(\"a.hung[aria-label^='{label} "
        "']\").getAttribute('aria-label')"
    )
    page.wait(lambda: (words in page.driver.execute_script(look)) == there, f"{label}: {words}")


def test_nothing_is_recorded_that_was_not_so(page: Page) -> None:
    """With a fault of each kind, by keys: while another one is up the page asks nothing of this
    one, and an answer that comes all the same is not taken; what was seen stays as a sign until it
    is proven right."""
    for fault in FAULTS:
        start_anew(page, fault)
        page.open("/shows/1/prove?at=Fern+Gully")
        bring_up(page, "Fern 4")
        pick(page, "Fern 5")
        page.sees("This one is not up")
        assert not page.has("#right")
        page.press("1")  # no key answers what is not asked
        page.press(" ")
        page.one("#right")
        page.wait(lambda: page.has("#seen-words .meanwhile"), "nothing is seen of the fault")
        page.press("3" if fault.startswith("wrong-mode") else "1")
        page.sees("Noted until it is proven right: Fern 5")
        seen = "shows something else" if fault.startswith("wrong-mode") else "stays dark"
        said(page, "Fern 5", seen)
        said(page, "Fern 4", "proven", there=False)
    page.open("/shows/1/findings")
    page.sees("Fern 5 stays dark, brought up in open white")
    start_anew(page, "")
    page.open("/shows/1/prove?at=Fern+Gully")
    bring_up(page, "Fern 5")
    page.press(Keys.ARROW_RIGHT)  # on to the next one, which is brought up with it
    page.sees("Fern 6 should be", "#should")
    page.one("#right")
    page.press(Keys.ARROW_LEFT)
    page.sees("Fern 5 should be", "#should")
    page.wait(lambda: page.has("a.hung.current polygon.cone:not(.unlit)"), "it does not light up")
    page.click("#enough")
    page.sees("Fern 5 is proven")
    said(page, "Fern 5", "proven")
    said(page, "Fern 5", "stays dark", there=False)
    said(page, "Fern 6", "proven", there=False)
    page.open("/shows/1/findings")
    page.wait(lambda: "Fern 5 stays dark" not in page.text("body"), "the sign is still open")


def test_what_is_read_is_never_right_by_itself(page: Page) -> None:
    """At the display: the planned number upside down is asked for where nobody has noted how the
    fixture hangs; what is answered is noted, and decides what the same number means from then
    on."""
    rill = "/shows/3/set/39/says"  # planned at 161, which is 191 upside down
    page.open(rill)
    page.type("#typed", "191")
    page.click("#look")
    page.sees("Does it hang upside down?", "#cause")
    assert not page.has("#note-right")
    page.click("#hangs-up")
    page.sees("191", "#cause")
    assert page.has("#cause.wrong")
    assert not page.has("#note-right")
    page.open("/shows/3/set/39")
    assert page.one("#upright").get_attribute("aria-pressed") == "true"
    page.click("#turn")
    page.wait(lambda: page.one("#turn").get_attribute("aria-pressed") == "true", "it is not noted")
    page.open(rill)
    page.type("#typed", "191")
    page.click("#look")
    page.one("#cause.right")
    page.click("#note-right")
    page.sees("Noted: Rill 5 says 161")
