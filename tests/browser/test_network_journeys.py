"""The network in the browser: built by keys, planned, found with its two faults, both mended, the
card printed."""

from __future__ import annotations

import base64
import io
import subprocess
from collections.abc import Iterator
from pathlib import Path

import pytest
from pypdf import PdfReader
from selenium.webdriver import Keys

from fence.demo import demo_show
from fence.formats.show_json import write_show_json
from tests import warm
from tests.browser.conftest import Page
from tests.browser.test_line_journeys import OVERLAPS, tab_to
from tests.browser.test_thumbs_and_rings import phone

__all__ = ["phone"]

pytestmark = pytest.mark.browser

THERE = "127.0.0.44"


@pytest.fixture
def standin(tmp_path: Path) -> Iterator[None]:
    """The boxes of the demo with problems, as their own process, ended by SIGTERM."""
    file = tmp_path / "there.json"
    file.write_text(write_show_json(demo_show()))
    command = [*warm.COMMAND, "standin", "boxes", file, "--bind", THERE]
    with warm.start(command, stdout=subprocess.PIPE, text=True) as process:
        assert process.stdout is not None
        assert process.stdout.readline() == "ready\n"
        yield
        process.terminate()
        assert process.wait(10) == 0


def built_by_keys(page: Page) -> None:
    """A desk and two boxes, the first counting from 0, without a mouse."""
    page.open("/shows/3/network")
    tab_to(page, "#desk-name")
    page.press("Shed 8", Keys.TAB, "8", Keys.TAB, Keys.TAB, "192.168.40.2", Keys.ENTER)
    page.sees("Added node Shed 8")
    tab_to(page, "#new-name")
    page.press("palm dock", Keys.TAB, "4", Keys.TAB, "192.168.40.11", Keys.ENTER)
    page.sees("Added node palm dock")
    tab_to(page, "#counts_from")
    page.press("0", Keys.ENTER)
    page.click("#save-box")
    page.sees("counts from 0", ".network-drawing")
    tab_to(page, "#new-name")
    page.press("rill dock", Keys.TAB, "8", Keys.TAB, "192.168.40.12", Keys.ENTER)
    page.sees("Added node rill dock")


def test_two_faults_are_found_and_mended(page: Page, standin: None) -> None:
    """Build, plan the ports, look, see what differs, note it, mend both, print the card."""
    built_by_keys(page)
    page.open("/shows/3/network/ports")
    page.sees("Proven")
    page.click("#apply")
    page.wait(lambda: page.has('.step.current[href$="/network"]'), "not back on the network")
    page.open("/shows/3/network/look")
    page.driver.execute_script("document.getElementById('bind').value = '127.0.0.1'")
    page.type("#to", THERE)
    page.click("#look")
    page.sees("Port 4 says 4, planned is 3: it gives U5 in place of U4.")
    page.sees("It is at 192.168.4.12, planned is 192.168.40.12, another network (/24).")
    page.click("#note--1")
    page.sees("Nothing is changed yet", "#proposal")
    page.click("#apply")
    page.wait(lambda: not page.has("#proposal"), "not taken over")
    page.open("/shows/3/network")
    page.sees("2 stops", ".step.current")
    page.sees("Gatehouse stays dark")
    assert len(page.driver.find_elements("css selector", ".net-rope.lost")) == 1
    ways = (
        ("Plan 192.168.40.12 for rill dock", "rill dock: address "),
        ("Have 3 typed at palm dock port 4", "palm dock: port 4 says "),
    )
    for words, told in ways:
        page.wait(
            lambda w=words: page.driver.find_element("xpath", f"//button[normalize-space()='{w}']"),
            words,
        )  # type: ignore[misc]
        page.driver.find_element("xpath", f"//button[normalize-space()='{words}']").click()
        page.sees(told)
        page.open("/shows/3/network")
    page.sees("2 nodes", ".step.current")
    assert not page.has(".net-rope.lost")
    page.open("/shows/3/network/cards/2")
    page.sees("192.168.40.11")
    printed = page.driver.execute_cdp_cmd("Page.printToPDF", {})
    paper = PdfReader(io.BytesIO(base64.b64decode(printed["data"])))
    text = " ".join(sheet.extract_text() for sheet in paper.pages)
    for words in (
        "palm dock",
        "192.168.40.11",
        "255.255.255.0",
        "239.255.0.4:5568",
        "so U1 is its 0",
    ):
        assert words in text
    assert "Typed, next" not in text


def test_words_stay_inside_at_any_size(page: Page) -> None:
    """At a desk and on a phone no word of the picture is on another, with long names and many
    ports."""
    page.open("/shows/1/network?box=3")
    page.type("#name", "Verteilerkasten im hinteren Gewächshaus, zweites Regal")
    page.type("#ports", "24")
    page.click("#save-box")
    page.sees("24 ports", ".network-drawing")
    script = OVERLAPS.replace(".line-drawing", ".network-drawing").replace("a.post", "a.net-gate")
    assert page.driver.execute_script(script) == [1, 28, []]


def test_a_box_is_typed_in_on_a_phone(page: Page, phone: None) -> None:
    """Number by number with the thumb; typed leads to the next box; a wrong number read back stands
    out."""
    page.open("/shows/1/network/cards/2")
    page.click("#typed")
    page.sees("rill dock", "h1")
    page.open("/shows/1/network/cards/2")
    assert page.text("#card-state") == "typed"
    page.click(".box-card summary")
    page.type("#says-4", "4")
    page.press(Keys.ENTER)
    page.sees("it says 4, so it gives U5")
    assert page.text("#card-state") == "says something else"
    page.open("/shows/1/network")
    assert page.driver.execute_script("return document.documentElement.scrollWidth") <= 390
    script = OVERLAPS.replace(".line-drawing", ".network-drawing").replace("a.post", "a.net-gate")
    assert page.driver.execute_script(script) == [1, 12, []]
