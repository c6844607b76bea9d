"""Charts from anywhere, in the browser: a doubt settled by a click, a workbook, a word that was
taught."""

from __future__ import annotations

from pathlib import Path

import pytest
from selenium.webdriver import Keys

from tests.browser.conftest import Page
from tests.browser.test_line_journeys import tab_to
from tests.formats.test_chart_sheets import FULL, LEAN, workbook

pytestmark = pytest.mark.browser

COPIED = """BRAMBLE Bog Wash 60                         page 12
6 channel mode
CH   Function         Value      Meaning
1    Master dimmer    000-255    dark to full
2    Shutter          000-009    closed
                      010-255    open
3    Red              000-255
4    Green            000-255
5    Blue             000-255
6    Ripple           000-127    still
                      128-255    moving
"""


def put(page: Page, text: str) -> None:
    """Text as it comes from the clipboard, all at once."""
    page.driver.execute_script(
        "const box = document.getElementById('text'); box.value = arguments[0];"
        "box.dispatchEvent(new Event('input', {bubbles: true}));",
        text,
    )


def test_a_table_out_of_a_pdf_with_one_doubt_settled_by_a_click(page: Page) -> None:
    """All but one line is sure; a click says that the last is right, and the chart is kept."""
    page.open("/shows/3/charts/paste")
    page.type("#maker", "Bramble")
    page.type("#model", "Bog Wash 60")
    put(page, COPIED)
    page.sees("7 lines sure, 1 guessed, 0 not understood", "#reading")
    page.sees("page number or footer", "#reading")
    page.click('#reading a[href="#line-10"]')
    page.click('label[for="is-10-right"]')
    page.sees("8 lines sure, 0 guessed", "#reading")
    page.sees("right, as you said", "#line-10")
    page.click("button.btn-primary[type=submit]")
    page.sees("Bramble Bog Wash 60 is in the library, revision 1.")


def test_a_doubt_is_settled_by_keys_alone(page: Page) -> None:
    """Tab reaches the choices of a line, a key chooses, and the focus stays where it was."""
    page.open("/shows/3/charts/paste")
    put(page, COPIED)
    page.sees("1 guessed", "#reading")
    tab_to(page, "#is-10-right, #is-10-channel")
    page.press(Keys.SPACE)
    page.sees("right, as you said", "#line-10")
    page.wait(
        lambda: page.driver.execute_script("return document.activeElement.id") == "is-10-right",
        "the focus was lost",
    )
    page.press(Keys.ARROW_LEFT)
    page.sees("1 guessed", "#reading")


def test_a_workbook_with_two_modes(page: Page, tmp_path: Path) -> None:
    """Each sheet is a mode; the chart is kept with both."""
    file = tmp_path / "bog.xlsx"
    file.write_bytes(workbook({"Lean": LEAN, "Full": FULL}))
    page.open("/shows/3/charts/paste")
    page.type("#model", "Fen Wash")
    page.one("#file").send_keys(str(file))
    page.click("button[value=file]")
    page.sees("Lean 2 channels", "#reading")
    page.sees("Full 3 channels", "#reading")
    page.click("button.btn-primary[type=submit]")
    page.sees("Fen Wash is in the library")


def test_a_taught_word_is_used_again_later(page: Page) -> None:
    """What a wording means is said once; the next paste knows it, and it can be taken back."""
    page.open("/shows/3/charts/paste")
    page.type("#model", "Mire Wash")
    put(page, "1 Red\n2 Ripple\n3 Blue")
    page.sees("1 guessed", "#reading")
    page.choose("#means-1", "fan")
    page.sees("3 lines sure, 0 guessed", "#reading")
    page.click("button.btn-primary[type=submit]")
    page.sees("Mire Wash is in the library")
    page.open("/shows/3/charts/paste")
    put(page, "1 Ripple\n2 Green")
    page.sees("2 lines sure, 0 guessed", "#reading")
    page.open("/shows/3/charts/files/words")
    page.sees("ripple means fan")
    page.click('button[aria-label="Forget ripple"]')
    page.sees("None yet.")
