"""Every screen, in both themes, without serious or critical violations, with a ring wherever the
focus is, and with targets for a thumb on a phone."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from selenium.webdriver import Keys

from tests.browser.conftest import Page, on_each_page
from tests.browser.screens import (
    DESK,
    DOUBTED,
    DRAWN,
    PHONE,
    SCREENS,
    SIDEWAYS,
    TOO_SMALL,
)
from tests.talking import answered

pytestmark = pytest.mark.browser

AXE = (Path(__file__).parent / "vendor" / "axe.min.js").read_text()
RUN = """
const done = arguments[arguments.length - 1];
const tags = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"];
const only = arguments[0]
  ? {runOnly: {type: "rule", values: [arguments[0]]}}
  : {runOnly: {type: "tag", values: tags}};
const frames = [".content", ".offcanvas.show", "dialog[open]"];
const inner = frames.filter((one) => document.querySelector(one));
const whole = arguments[1] || !inner.includes(".content");
const what = whole ? document : {include: inner.map((one) => [one])};
const told = (n) => n.html.slice(0, 160) + n.failureSummary;
axe.run(what, {resultTypes: ["violations"], ...only}).then((r) => done(r.violations
  .filter((v) => ["serious", "critical"].includes(v.impact))
  .map((v) => v.id + ": " + v.nodes.slice(0, 3).map(told).join(" | "))));
"""


def waiting_import(page: Page, folder: Path) -> str:
    """The path of the preview of a file with good and bad rows."""
    rig = folder / "rig.csv"
    rig.write_text("label,channels,gel\nA,5,L201\nB,x,\n")
    page.open("/")
    page.one('input[type="file"]').send_keys(str(rig))
    page.one('input[type="file"]').submit()
    page.sees("1 row refused")
    return page.driver.current_url.removeprefix(page.base)


NO_RING = """
const kinds = ["a[href]", "button:not([disabled])", "input:not([type=hidden], [disabled])",
               "select", "textarea", "summary", "[tabindex='0']"];
const bare = [];
for (const e of document.querySelectorAll(kinds.join(", "))) {
  if (e.closest("dialog:not([open]), .dropdown-menu:not(.show)")) continue;
  if (!e.checkVisibility({visibilityProperty: true})) continue;
  e.focus({focusVisible: true});
  if (document.activeElement !== e) continue;
  const style = getComputedStyle(e);
  const ring = style.outlineStyle !== "none" && parseFloat(style.outlineWidth) >= 2;
  const run = e.matches("a.run") && e.querySelector(".rail, .body");
  const drawn = run && getComputedStyle(run).strokeWidth !== "0px";
  if (!ring && !drawn) bare.push(e.outerHTML.slice(0, 110));
}
return bare;
"""


PARTS = 8
"""Parts that go to whoever is free."""
WHOLE = 10
"""Every so many screens the frame around them is looked at, too: it is the same on all."""
IN_THE_LIGHT = 3
"""Every so many screens are looked at in the light theme, the others in the dark one: both take
their colours from one list, and it is another third on each of the parts."""
NARROWEST = 320
"""Pixels into which every page has to flow."""
LIGHT = "document.documentElement.dataset.bsTheme = 'light'"


def missed_by_a_thumb(page: Page) -> list[str]:
    """What is too small or too wide at 390 by 844 with touch; the page is turned into a phone where
    it stands."""
    page.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", PHONE)
    page.driver.execute_cdp_cmd("Emulation.setTouchEmulationEnabled", {"enabled": True})
    page.driver.execute_async_script(DRAWN)
    found: list[str] = page.driver.execute_script(TOO_SMALL)
    found += page.driver.execute_script(SIDEWAYS)
    wide = page.driver.execute_script("return document.documentElement.scrollWidth")
    found = [*found[:4], *([f"{wide} px wide"] if wide > PHONE["width"] else [])]
    narrow = {**PHONE, "width": NARROWEST}
    page.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", narrow)
    page.driver.execute_async_script(DRAWN)
    wide = page.driver.execute_script("return document.documentElement.scrollWidth")
    page.driver.execute_cdp_cmd("Emulation.setTouchEmulationEnabled", {"enabled": False})
    page.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", DESK)
    return [*found, *([f"{wide} px wide at {NARROWEST}"] if wide > NARROWEST else [])]


@pytest.mark.parametrize("part", range(PARTS))
def test_no_serious_violation(page: Page, part: int, tmp_path: Path) -> None:
    """axe-core finds nothing serious or critical on any screen, in the one theme or the other;
    whatever takes the focus by keys shows a ring; on a phone nothing that can be touched is
    smaller than 44 px, and no page is wider than the screen, at 320 px either."""
    answered(tmp_path / "browser.db")
    page.driver.set_script_timeout(120)
    page.open("/")
    with on_each_page(page, AXE):
        found = violations_of(page, part, tmp_path)
    assert not found, json.dumps(found, indent=1)


def violations_of(page: Page, part: int, tmp_path: Path) -> dict[str, list[str]]:
    """What is wrong on a share of the screens."""
    found: dict[str, list[str]] = {}
    for number, (path, before) in enumerate(
        [*SCREENS, (waiting_import(page, tmp_path), None)][part::PARTS]
    ):
        whole = number % WHOLE == 0
        page.open(path)
        assert page.driver.title, path
        if page.has("#overview"):
            page.one("#overview .card-u")
        if before:
            page.driver.execute_script(before)
        if before and "data-panel" in before:
            page.sees("Lily 3 ends", "#findings-list")
            page.wait(lambda: not page.has(".offcanvas.showing"), "the panel is still on its way")
        if before == DOUBTED:
            page.one(".settle")
        if before and "practice" in before:
            page.one(".try")
        if number % IN_THE_LIGHT == part % IN_THE_LIGHT:
            page.driver.execute_script(LIGHT)
        if violations := page.driver.execute_async_script(RUN, "", whole):
            found[path] = violations
        page.press(Keys.TAB)
        if bare := page.driver.execute_script(NO_RING):
            found[f"{path} without a ring"] = bare[:4]
        if missed := missed_by_a_thumb(page):
            found[f"{path} for a thumb"] = missed
    return found
