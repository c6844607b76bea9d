"""The work as a technician does it, in a real browser."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import pytest
from selenium.webdriver import ActionChains, Chrome, Keys

from tests.browser.chromium import serving
from tests.browser.conftest import Page, forget

pytestmark = pytest.mark.browser


def stops(page: Page, count: int) -> None:
    page.sees(f"{count} stop", "#verdict")


def pick(page: Page, label: str) -> None:
    page.click(f'a.run[aria-label^="{label},"]')
    page.sees(label, "#inspector h2")


def test_find_mend_undo_redo(page: Page) -> None:
    """Open the demo, find the overlap, see the mend before it happens, take it, undo it, redo
    it."""
    page.open("/")
    page.driver.find_element("link text", "Glasshouse After Dark").click()
    stops(page, 7)
    page.click("#verdict .chip.stop")
    page.sees("Lily 3 ends at 15; Lily 4 starts at 14.", "#findings-list")
    page.type("#findings-q", "lily")
    page.wait(lambda: "Bough" not in page.text("#findings-list"), "the list is not narrowed")
    page.click("#findings-list a")
    page.sees("014", "#inspector .big")
    page.sees("Lily 3’s blue and white are Lily 4’s dimmer and red.", "#inspector")
    page.click("#inspector .mend")
    page.sees("Move Lily 4 to 16", "#inspector h2")
    assert page.has(".moved-frame")
    stops(page, 7)
    page.click("#apply")
    page.sees("016", "#inspector .big")
    stops(page, 6)
    assert "Lily 4 moved from U2 014 to U2 016" in page.one("#undo-button").get_attribute("title")
    page.press("u")
    stops(page, 7)
    page.click("#redo-button")
    stops(page, 6)


def test_findings_are_found_by_a_usual_word(page: Page) -> None:
    """Whoever types “problems” into Find gets the findings, over the page that is there."""
    page.open("/shows/2/lines")
    page.press("/")
    page.press("problems")
    page.sees("Findings", "#found")
    page.press(Keys.ENTER)
    page.sees("Lily 3 ends", "#findings-list")
    assert "/lines" in page.driver.current_url
    assert not page.has("#found a")


def test_keys_alone(page: Page) -> None:
    """Find, nudge by one and by the footprint, change universe and let go, all by keys."""
    page.open("/shows/1/address?u=2")
    page.press("/")
    page.press("Storm")
    page.sees("Storm", "#found a")
    page.press(Keys.TAB, Keys.ENTER)
    page.sees("301", "#inspector .big")
    page.press(Keys.ARROW_RIGHT)
    page.sees("302", "#inspector .big")
    ActionChains(page.driver).key_down(Keys.SHIFT).send_keys(Keys.ARROW_RIGHT).key_up(
        Keys.SHIFT
    ).perform()
    page.sees("306", "#inspector .big")
    page.press(*[Keys.ARROW_LEFT] * 6)
    page.sees("300", "#inspector .big")
    page.press(Keys.ESCAPE)
    page.sees("How many more fit here", "#inspector")
    page.press("]")
    page.sees("U3 Canopy walk", "h1")
    page.press("[")
    page.sees("U2 Water court", "h1")
    page.press("?")
    page.sees("Keys", "#keys")
    page.press(Keys.ESCAPE)
    page.wait(lambda: not page.one("#keys").is_displayed(), "the list of keys stays open")


def test_add_a_run_seen_before_it_lands(page: Page) -> None:
    """The form shows where the run will stand and what it would hit; then it stands there."""
    page.open("/shows/1/rig")
    page.press("a")
    page.choose("#kind", value="tansy-pond-wash | 5 channel")
    page.type("#quantity", "4")
    page.type("#label", "Moss 1")
    page.type("#universe", "2")
    page.type("#start", "48")
    page.sees("Lily 10 ends at 50; Moss 1 starts at 48.", "#landing")
    page.type("#start", "401")
    page.sees("on no line of U", "#landing")
    page.sees("U2 416 Moss 4", "#landing")
    assert len(page.driver.find_elements("css selector", "#landing .moved-frame")) == 4
    page.click("#add-form .btn-primary")
    page.sees("Added 4 fixtures, Moss 1 to Moss 4")
    page.type("#rig-q", "moss")
    page.sees("4 of 68 shown", "#rig-list")


def drag(page: Page, label: str, slots: int, rails: int = 0) -> None:
    """Take the run by its first picket and pull it along, without letting go."""
    run = page.one(f'a.run[aria-label^="{label},"] .hit')
    svg = page.one("svg.fence")
    pitch = svg.rect["width"] / 874 * 12
    rail = svg.rect["width"] / 874 * 64
    grip = ActionChains(page.driver, duration=50)
    grip.move_to_element_with_offset(run, -int(run.rect["width"] / 2) + 6, -10).click_and_hold()
    grip.move_by_offset(20, 0).move_by_offset(
        round(slots * pitch) - 20, round(rails * rail)
    ).perform()


def let_go(page: Page) -> None:
    ActionChains(page.driver).release().perform()


def test_drag_says_what_it_would_do(page: Page) -> None:
    """A drag tells of every slot whether it is clear; a clear drop is made, another asks first."""
    page.open("/shows/1/address?u=2")
    page.one("#overview .card-u")
    drag(page, "Storm", 12)
    page.sees("Clear: U2 313 to 316", "#drag-words")
    let_go(page)
    page.one('a.run[aria-label^="Storm, U2 313"]')
    drag(page, "Storm", 0, -1)
    page.sees("Clear: U2 249 to 252", "#drag-words")
    ActionChains(page.driver).move_by_offset(0, -64).perform()
    page.sees("Rill 6", "#drag-words")
    let_go(page)
    page.sees("Put Storm at U2 185", "#inspector h2")
    stops(page, 0)
    page.click("#cancel")
    page.wait(lambda: not page.has("#apply"), "the question stays")
    page.one('a.run[aria-label^="Storm, U2 313"]')


def test_two_people_at_once(page: Page) -> None:
    """Steps on different fixtures join; on the same one the second is told what happened and does
    the step on top."""
    page.open("/shows/2/address?pick=28")
    first = page.driver.current_window_handle
    page.driver.switch_to.new_window("tab")
    page.open("/shows/2/address?pick=46")
    page.press(Keys.ARROW_RIGHT)
    page.sees("302", "#inspector .big")
    other = page.driver.current_window_handle
    page.driver.switch_to.window(first)
    page.type("#address", "2/390")
    page.press(Keys.ENTER)
    page.sees("Saved, together with what others have saved meanwhile")
    page.sees("390", "#inspector .big")
    page.driver.switch_to.window(other)
    page.open("/shows/2/address?pick=28")
    page.driver.switch_to.window(first)
    page.press(Keys.ARROW_RIGHT)
    page.sees("391", "#inspector .big")
    page.driver.switch_to.window(other)
    page.type("#address", "2/400")
    page.press(Keys.ENTER)
    page.sees("moved from U2 390 to U2 391", "#notice")
    page.sees("was changed meanwhile as well", "#notice")
    page.click("#notice .btn-primary")
    page.sees("400", "#inspector .big")
    stops(page, 6)


def test_import_with_bad_rows_export_and_check(page: Page, tmp_path: Path, downloads: Path) -> None:
    """A file with two bad rows is shown row by row, mended, saved, exported, and its export
    checks."""
    rig = tmp_path / "moss garden.csv"
    rig.write_text(
        "label;channels;universe;address\nMoss 1;5;1;1\nMoss 2;five;1;6\nMoss 3;5;1;11\nMoss "
        "4;5;1;600\n"
    )
    page.open("/")
    page.one('input[type="file"]').send_keys(str(rig))
    page.one('input[type="file"]').submit()
    page.sees("2 fixtures understood, 2 rows refused")
    page.sees("“five” in channels")
    page.type("#row-3", "Moss 2;5;1;6")
    page.click(".refused .btn")
    page.sees("3 fixtures understood, 1 row refused")
    page.click("#leave_out")
    page.click('form[action$="/save"] .btn-primary')
    page.sees("3 fixtures saved.")
    page.open("/")
    page.click('a[href$="/4/export.csv"]')
    exported = downloads / "moss-garden.csv"
    page.wait(exported.exists, "nothing was downloaded")
    done = subprocess.run(
        [sys.executable, "-m", "fence.cli", "check", str(exported)],
        capture_output=True,
        text=True,
        check=False,
    )
    assert (done.returncode, "0 stops in 0 findings, 3 fixtures" in done.stdout) == (0, True)


def test_pick_a_range_and_change_it(page: Page) -> None:
    """Shift picks a range; one change names, numbers and hangs all of it, and undo takes it
    back."""
    page.open("/shows/1/rig?q=lily&sort=number")
    boxes = page.driver.find_elements("css selector", 'input[name="picked"]')
    boxes[0].click()
    ActionChains(page.driver).key_down(Keys.SHIFT).click(boxes[9]).key_up(Keys.SHIFT).perform()
    page.sees("10 selected", ".inspector h2")
    page.type("#label", "Reed bed 1")
    page.type("#position", "Reed bed")
    page.click('button[value="change"]')
    page.sees("Renamed 10 fixtures, Reed bed 1 to Reed bed 10")
    page.press("u")
    page.wait(lambda: "Reed bed" not in page.text("#rig-list"), "the change is not taken back")


def test_an_empty_show_says_the_first_step(page: Page) -> None:
    """A new show leads to its first run."""
    page.open("/")
    page.type("#name", "Harvest supper")
    page.one("#name").submit()
    page.sees("No fixtures yet")
    page.open("/shows/4/address")
    page.sees("Add the first run", "#inspector")
    page.open("/shows/4/charts")
    page.type("#charts-q", "hazer")
    page.wait(
        lambda: not page.one('[data-filter-text^="Teasel"]').is_displayed(),
        "the charts are not narrowed",
    )
    page.open("/shows/2/charts")
    assert not page.has(".chart .mode")
    page.click(".chart summary")
    page.sees("26 channel", ".chart[open] .mode:last-child h3")
    assert page.has(".chart[open] .channels li")


def test_paste_a_chart_correct_it_and_use_it(page: Page) -> None:
    """Paste a chart, correct one line, teach a wording, save it, and add a fixture of it to the
    demo show."""
    page.open("/shows/2/charts")
    page.click('a[href$="/charts/paste"]')
    page.type("#maker", "Bramble")
    page.type("#model", "Bog Wash")
    page.type(
        "#text",
        "CH1 Total dimming 0-100%\nCH2 Red\nCH3 Gren\nCH4 Blue\nCH5 Twinkle 0-9 off, 10-255 on",
    )
    page.sees("3 lines sure, 2 guessed, 0 not understood.", "#reading")
    page.driver.execute_script(
        "const t = document.getElementById('text'); t.value = t.value.replace('Gren', 'Green');"
        "t.dispatchEvent(new Event('input', {bubbles: true}))"
    )
    page.sees("4 lines sure, 1 guessed", "#reading")
    page.choose("#means-1", "shutter/strobe")
    page.sees("5 lines sure, 0 guessed", "#reading")
    page.click("#chart-form .btn-primary")
    page.sees("Bramble Bog Wash is in the library, revision 1.")
    page.type("#label", "Bog 1")
    page.sees("on no line of U", "#landing")
    page.click("#add-form .btn-primary")
    page.sees("Added Bog 1")


def test_six_fixtures_to_another_mode(page: Page) -> None:
    """Six fixtures are picked in the rig, their larger mode is seen with its clashes and moves,
    taken, and undone."""
    page.open("/shows/1/rig?q=pond&position=Fern+Gully")
    page.sees("6 of 64 shown", "#rig-list")
    page.click("[data-pick-all]")
    page.sees("6 selected", ".inspector h2")
    page.choose("#mode", value="10 channel")
    page.click('[value="preview-mode"]')
    page.sees("6 × Tansy Pond Wash", "#work")
    page.sees("8 → 10", "#work")
    page.sees("It takes 10 channels in the new mode. A gap of 10", "#work")
    page.sees("leave 5 stops", "#change-only")
    page.click("#change-and-mend")
    page.sees("6 fixtures, Fern 1 to Fern 6 to mode 10 channel", ".said")
    page.sees("0 stops", "#verdict")
    page.press("u")
    page.one("#redo-button[title*='to mode 10 channel']")
    page.sees("0 stops", "#verdict")
    page.open("/shows/1/rig?q=Fern")
    assert "8 channel" in page.text("#rig-list")


def test_an_unknown_fixture_becomes_a_chart(page: Page) -> None:
    """On a practice fixture: answer by hand, take it back, let it answer the rest, and make a chart
    of it."""
    page.open("/shows/1/charts/probe")
    page.click('[name="practice"][value="2"]')
    page.sees("Raise slot 1 from 0 to 255", ".try")
    page.click('[name="answer"][value="red"]')
    page.sees("Raise slot 2", ".try")
    page.click('[name="do"][value="back"]')
    page.sees("Raise slot 1", ".try")
    page.click("#rest")
    page.sees("3 channels after", "#work")
    page.click("#to-chart")
    page.sees("0 not understood", "#reading")
    page.type("#model", "Shed find")
    page.click("#chart-form .btn-primary")
    page.sees("Shed find is in the library, revision 1.", ".said")


def lose_cookies(page: Page) -> None:
    """As a browser does that is told to keep none, or two pages that are opened at once by one who
    was never here: of two cookies only one stays."""
    page.driver.execute_cdp_cmd("Network.clearBrowserCookies", {})


def test_a_step_outlives_its_cookie(page: Page) -> None:
    """A page sends it again by itself, as it was; a form that is a page's own is offered again."""
    page.open("/shows/2/address?pick=28")
    lose_cookies(page)
    page.type("#address", "2/390")
    page.press(Keys.ENTER)
    page.sees("390", "#inspector .big")
    page.open("/shows/2/address?pick=28")
    for after in ("391", "392"):
        lose_cookies(page)
        page.press(Keys.ARROW_RIGHT)
        page.sees(after, "#inspector .big")
    assert not page.has("#notice .problem")
    page.open("/shows/2/rig/28")
    lose_cookies(page)
    page.type("#note", "left arm, by the pond")
    page.click(".card-form .btn-primary")
    page.sees("What you typed is still here")
    page.click("#do-now")
    page.sees("Note of Lily 4")
    page.open("/shows/2/rig/28")
    assert page.one("#note").get_attribute("value") == "left arm, by the pond"


def test_a_browser_without_cookies_is_told(
    browser: Chrome, tmp_path: Path, furnished: Path, caplog: pytest.LogCaptureFixture
) -> None:
    """A step is sent again once, not for ever."""

    def refused() -> int:
        return caplog.text.count("A step at /shows/2/address/nudge was not taken")

    kept_nowhere = {"SESSION_COOKIE_DOMAIN": "elsewhere.test"}
    with serving(tmp_path / "none.db", furnished=furnished, config=kept_nowhere) as base:
        forget(browser, base)
        page = Page(browser, base)
        page.open("/shows/2/address?pick=28")
        page.press(Keys.ARROW_RIGHT)
        page.sees("allow cookies", "#notice")
        assert refused() == 2
        page.press(Keys.ARROW_RIGHT)
        page.wait(lambda: refused() == 4, "it is not tried again")
        page.sees("allow cookies", "#notice")
        browser.get("about:blank")
