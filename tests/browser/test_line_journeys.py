"""Lines in the browser: built by keys alone, a post dragged, many lines at once without a label on
another."""

from __future__ import annotations

import pytest
from selenium.webdriver import ActionChains, Keys

from fence.demo import clean_show
from tests.browser.conftest import Page
from tests.browser.test_thumbs_and_rings import phone

__all__ = ["phone"]

pytestmark = pytest.mark.browser

OVERLAPS = """
const found = [];
for (const svg of document.querySelectorAll(".line-drawing")) {
  const boxes = [...svg.querySelectorAll("text")].filter((t) => t.textContent.trim())
    .map((t) => [t.textContent, t.getBoundingClientRect()]);
  boxes.forEach(([one, a], at) => boxes.slice(at + 1).forEach(([other, b]) => {
    const wide = Math.min(a.right, b.right) - Math.max(a.left, b.left);
    const high = Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top);
    if (wide > 0.5 && high > 0.5) found.push(`${one} on ${other}`);
  }));
}
const many = (selector) => document.querySelectorAll(selector).length;
return [many(".line-drawing"), many("a.post"), found];
"""


def tab_to(page: Page, selector: str, most: int = 120) -> None:
    """Press Tab until what is meant has the focus."""
    for _ in range(most):
        page.press(Keys.TAB)
        if page.driver.execute_script(
            "return document.activeElement.matches(arguments[0])", selector
        ):
            return
    raise AssertionError(f"{selector} is not reached by Tab")


def order(page: Page, line: int) -> list[str]:
    """The names of the posts of a line, as they stand."""
    script = (
        "return [...document.querySelectorAll(`a.post[data-line='${arguments[0]}'] "
        ".name`)].map(n => n.textContent)"
    )
    return list(page.driver.execute_script(script, line))


def test_a_line_is_built_by_keys_alone(page: Page) -> None:
    """Named, hung, measured, ended; a post goes along with Shift and an arrow, and one undo takes
    that back."""
    page.open("/shows/3/lines")
    tab_to(page, "#new-name")
    page.press("Pond", Keys.TAB, "2", Keys.ENTER)
    page.sees("Nothing hangs on it yet")
    tab_to(page, "#typed")
    page.press("Lily 1, Lily 2, Lily 3, 44", Keys.ENTER)
    page.sees("Pond ends open behind Lily 4")
    tab_to(page, "#lengths")
    page.press("40, 3, 3, 3", Keys.ENTER)
    page.sees("49 m")
    for post in ("adapter", "120 Ω"):
        tab_to(page, ".line-mend")
        page.press(Keys.ENTER)
        page.wait(lambda p=post: p in order(page, 5), f"no {post}")  # type: ignore[misc]
    assert "ends open behind Lily 4" not in page.text("body")
    tab_to(page, "#stop-5-1")
    page.press(Keys.ARROW_RIGHT)
    assert page.driver.switch_to.active_element.get_attribute("id") == "stop-5-2"
    ActionChains(page.driver).key_down(Keys.SHIFT).send_keys(Keys.ARROW_RIGHT).key_up(
        Keys.SHIFT
    ).perform()
    page.wait(
        lambda: order(page, 5)[1:5] == ["Lily 1", "Lily 3", "Lily 2", "Lily 4"],
        "Lily 2 did not go along",
    )
    page.wait(
        lambda: "Lily 2" in page.driver.switch_to.active_element.get_attribute("aria-label"),
        "the focus did not follow",
    )
    page.press("u")
    page.wait(lambda: order(page, 5)[2:3] == ["Lily 2"], "not undone")


def test_a_post_is_dropped_behind_another(page: Page) -> None:
    """Dragged with the mouse within its line; let go over nothing it stays."""
    page.open("/shows/1/lines?line=3")
    assert order(page, 3)[:3] == ["Canopy 1", "Canopy 2", "Canopy 3"]
    one, other = page.one("#stop-3-1 .body"), page.one("#stop-3-3 .body")
    ActionChains(page.driver).click_and_hold(one).move_by_offset(20, 4).move_to_element(
        other
    ).release().perform()
    page.wait(lambda: order(page, 3)[:3] == ["Canopy 2", "Canopy 3", "Canopy 1"], "not moved")
    page.sees("Line C: ")
    post = page.one("#stop-3-2 .body")
    ActionChains(page.driver).click_and_hold(post).move_by_offset(0, 60).release().perform()
    assert order(page, 3)[:3] == ["Canopy 2", "Canopy 3", "Canopy 1"]


def twelve_lines() -> str:
    """The 64 fixtures of the demo on twelve lines as CSV, the first with a splitter of eight. They
    take the place of the five that are there."""
    labels = [fixture.label for fixture in clean_show().fixtures]
    rows = ["line,universe,what,name,stop,after,output,outputs,length"]
    names = [
        "Line A",
        "Line B",
        "Line C",
        "Line D",
        "Air 3",
        *(f"Line {number}" for number in range(6, 13)),
    ]
    rows.append("Line A,,splitter,Big one,1,,,8,24")
    for output in range(1, 9):
        for step in (0, 1):
            number = 2 * output + step
            after = 1 if step == 0 else number - 1
            place = output if step == 0 else ""
            rows.append(f"Line A,,fixture,{labels.pop(0)},{number},{after},{place},,{8 + output}.5")
    for line, name in enumerate(names[1:], 2):
        for at in range(5 if line < 6 else 4):
            rows.append(f"{name},,fixture,{labels.pop(0)},,,,,{12.5 if at else 120}")
    assert not labels
    return "\n".join(rows)


def read_lines(page: Page, text: str) -> None:
    """Give the lines as text, see what they would be, and take them."""
    page.open("/shows/1/lines/read")
    page.driver.execute_script("arguments[0].value = arguments[1]", page.one("#text"), text)
    page.click("#see")
    page.sees("Nothing is changed yet")
    page.click("#apply")
    page.sees("Big one")


def test_no_label_lies_on_another(page: Page) -> None:
    """64 fixtures, twelve lines, a splitter of eight: measured as it is drawn at 1280x800."""
    read_lines(page, twelve_lines())
    lines, posts, found = page.driver.execute_script(OVERLAPS)
    assert lines == 12
    assert posts == 65
    assert found == []


def test_a_line_can_be_read_along_on_a_phone(phone: Page) -> None:
    """No label on another, no line wider than the screen, and a post opens what hangs behind it."""
    read_lines(phone, twelve_lines())
    assert phone.driver.execute_script(OVERLAPS)[2] == []
    drawings = "[...document.querySelectorAll('.line-drawing')]"
    wide = f"return Math.max(...{drawings}.map((s) => s.getBoundingClientRect().right))"
    assert phone.driver.execute_script(wide) <= 390
    phone.driver.execute_script(
        "arguments[0].scrollIntoView({block: 'center'})", phone.one("#stop-1-2")
    )
    phone.click("#stop-1-2")
    phone.sees("If this plug comes out")


def test_the_cable_is_planned_and_the_list_follows(page: Page) -> None:
    """From the preview with keys: planned anew, then what to bring from the stock."""
    page.open("/shows/1/lines/plan?what=plan&anew=1")
    page.sees("Nothing is changed yet")
    page.sees("of cable")
    page.press("d")
    page.sees("Lines", "h1")
    page.wait(lambda: page.driver.current_url.endswith("/lines"), "still the preview")
    page.click("a[href$='/lines/pull']")
    page.sees("Made of")
    page.open("/shows/1/lines")
    assert "Line A" not in page.text("main")
    page.press("u")
    page.sees("Line A", "main")


def test_lines_can_be_read_on_paper(page: Page) -> None:
    """Black on white whatever the theme, without forms, the names under their posts."""
    page.open("/shows/2/lines")
    page.driver.execute_cdp_cmd("Emulation.setEmulatedMedia", {"media": "print"})
    try:
        fill = "return getComputedStyle(document.querySelector('a.post:not(.caution) .name')).fill"
        assert page.driver.execute_script(fill) == "rgb(0, 0, 0)"
        shown = (
            "return [...document.querySelectorAll('form, .step-tabs')].filter((e) => "
            "e.checkVisibility()).length"
        )
        assert page.driver.execute_script(shown) == 0
    finally:
        page.driver.execute_cdp_cmd("Emulation.setEmulatedMedia", {"media": ""})
