"""Every screen, in both themes, without serious or critical violations, with a ring wherever the focus is."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from selenium.webdriver import Keys

from tests.browser.conftest import Page
from tests.talking import answered

pytestmark = pytest.mark.browser

AXE = (Path(__file__).parent / "vendor" / "axe.min.js").read_text()
DOUBTED = (
    "const box = document.getElementById('text');"
    "box.value = 'Ch\\tFunction\\tValue\\n1\\tRed\\t0-255\\n2\\tRipple\\t';"
    "box.dispatchEvent(new Event('input', {bubbles: true}))"
)
"""A paste with columns and one doubt."""
TALKER = "/shows/1/rdm/device/7FF0:00000009"
SCREENS = [
    ("/", None),
    ("/shows/2/charts", "document.querySelectorAll('details')[3].open = true"),
    ("/shows/2/charts/paste", None),
    ("/shows/2/charts/paste?", DOUBTED),
    ("/shows/2/charts/tansy-pond-wash/edit", None),
    ("/shows/2/charts/tansy-pond-wash/update", None),
    ("/shows/2/charts/dibber-furrow/modes", None),
    ("/shows/2/charts/probe", "document.querySelectorAll('[name=practice]')[3].click()"),
    ("/shows/2/charts/files/words", None),
    ("/shows/2/modes?goal=full", None),
    ("/shows/2/modes/change?recommended=1", None),
    ("/shows/2/rig", None),
    ("/shows/2/rig", "document.querySelector('[data-panel=stop]').click()"),
    ("/shows/2/rig/add?u=2", None),
    ("/shows/2/rig/28", None),
    ("/shows/2/address?u=3", None),
    ("/shows/2/address?pick=28", "document.querySelectorAll('details').forEach((d) => { d.open = true })"),
    ("/shows/2/address?u=4&pick=60", None),
    ("/shows/2/address/repair?u=2", None),
    ("/shows/2/address/universes/1", None),
    ("/shows/2/address?u=2&pick=28&also=29,30", None),
    ("/shows/2/address/layout?school=spaced&whom=Rill", None),
    ("/shows/2/address/trial?tried=1&kind=dibber-furrow+%7C+24+channel&quantity=12", None),
    ("/shows/2/address/sheet/2", None),
    ("/shows/2/address/room?length=24", None),
    ("/shows/2/address/ways", None),
    ("/shows/1/lines", None),
    ("/shows/3/lines?line=2", None),
    ("/shows/3/lines?line=1&stop=15", "document.querySelectorAll('details').forEach((d) => { d.open = true })"),
    ("/shows/1/lines/pull", None),
    ("/shows/2/lines?line=5&stop=1", "document.querySelectorAll('details').forEach((d) => { d.open = true })"),
    ("/shows/2/lines/plan?what=plan&anew=1", None),
    ("/shows/2/lines/ground", None),
    ("/shows/2/lines/stock", None),
    ("/shows/2/lines/day", None),
    ("/shows/2/lines/air?position=Rill", None),
    ("/shows/2/lines/pins", None),
    ("/shows/2/lines/read", None),
    ("/switches?address=97", None),
    ("/switches/drill?seed=4", None),
    ("/shows/2/switches", None),
    ("/shows/2/lists", None),
    ("/shows/2/lists?by=channel&whom=u2", None),
    ("/shows/3/log", "document.querySelector('.log details').open = true"),
    ("/shows/3/log/compare?first=1", None),
    ("/shows/2/network", None),
    ("/shows/2/network?box=2&port=4", None),
    ("/shows/1/network?box=1", "document.querySelectorAll('details').forEach((d) => { d.open = true })"),
    ("/shows/3/network", None),
    ("/shows/2/network/ports?duplicates=1", None),
    ("/shows/2/network/addresses", "document.querySelectorAll('details').forEach((d) => { d.open = true })"),
    ("/shows/2/network/cards", None),
    ("/shows/2/network/cards/2", None),
    ("/shows/2/network/look", "document.querySelectorAll('details').forEach((d) => { d.open = true })"),
    ("/shows/2/numbers?typed=0.0.3&counting=artnet&other=10.0.0.1", None),
    ("/shows/3/set", None),
    ("/shows/3/set/47", "document.querySelectorAll('details').forEach((d) => { d.open = true })"),
    ("/shows/3/set/60", None),
    ("/shows/3/set/47/says?says=301", "document.querySelectorAll('details').forEach((d) => { d.open = true })"),
    ("/shows/3/set/60/says?on=1,2&look=1", None),
    ("/shows/3/set/place?at=Gatehouse", None),
    ("/shows/3/set/order", None),
    ("/shows/3/set/labels", "document.querySelectorAll('details').forEach((d) => { d.open = true })"),
    ("/shows/3/set/round", None),
    ("/shows/3/set/open?code=U4+257", None),
    ("/shows/3/prove", "document.querySelectorAll('details').forEach((d) => { d.open = true })"),
    ("/shows/3/prove/faders?fixture=5", None),
    ("/shows/3/prove/colour?colour=3200+K", None),
    ("/shows/3/prove/lesson?step=4", None),
    ("/shows/1/rdm", "document.querySelectorAll('details').forEach((d) => { d.open = true })"),
    ("/shows/2/rdm", None),
    (TALKER, "document.querySelectorAll('details').forEach((d) => { d.open = true })"),
    ("/shows/1/rdm/first", None),
    ("/shows/1/rdm/hold", None),
    ("/shows/2/settings", None),
    ("/shows/99", None),
]
RUN = """
const done = arguments[arguments.length - 1];
const only = arguments[0] ? {runOnly: {type: "rule", values: [arguments[0]]}} : {};
const inner = [".content", ".offcanvas.show", "dialog[open]"].filter((one) => document.querySelector(one));
const what = arguments[1] || !inner.includes(".content") ? document : {include: inner.map((one) => [one])};
axe.run(what, {resultTypes: ["violations"], ...only}).then((r) => done(r.violations
  .filter((v) => ["serious", "critical"].includes(v.impact))
  .map((v) => v.id + ": " + v.nodes.slice(0, 3).map((n) => n.html.slice(0, 160) + n.failureSummary).join(" | "))));
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
const kinds = ["a[href]", "button:not([disabled])", "input:not([type=hidden], [disabled])", "select", "textarea",
               "summary", "[tabindex='0']"];
const bare = [];
for (const e of document.querySelectorAll(kinds.join(", "))) {
  if (e.closest("dialog:not([open]), .dropdown-menu:not(.show)")) continue;
  if (!e.checkVisibility({visibilityProperty: true})) continue;
  e.focus({focusVisible: true});
  if (document.activeElement !== e) continue;
  const style = getComputedStyle(e);
  const ring = style.outlineStyle !== "none" && parseFloat(style.outlineWidth) >= 2;
  const drawn = e.matches("a.run") && getComputedStyle(e.querySelector(".rail, .body")).strokeWidth !== "0px";
  if (!ring && !drawn) bare.push(e.outerHTML.slice(0, 110));
}
return bare;
"""


PARTS = 8
"""Parts that go to whoever is free."""
WHOLE = 6
"""Every so many screens the frame around them is looked at, too: it is the same on all."""
BOTH = 2
"""Every so many screens the contrast is looked at in the other theme as well: both take their colours from one list."""
LIGHT = "document.documentElement.dataset.bsTheme = 'light'"


def contrast_in_the_light(page: Page, whole: bool) -> list[str]:
    """Bad contrast on the page in the light theme."""
    page.driver.execute_script(LIGHT)
    found: list[str] = page.driver.execute_async_script(RUN, "color-contrast", whole)
    return found


@pytest.mark.parametrize("part", range(PARTS))
def test_no_serious_violation(page: Page, part: int, tmp_path: Path) -> None:
    """axe-core finds nothing serious or critical on any screen, nor bad contrast in the other theme, and whatever takes
    the focus by keys shows a ring."""
    answered(tmp_path / "browser.db")
    page.driver.set_script_timeout(120)
    page.open("/")
    found = {}
    for number, (path, before) in enumerate([*SCREENS, (waiting_import(page, tmp_path), None)][part::PARTS]):
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
        page.driver.execute_script(AXE)
        if violations := page.driver.execute_async_script(RUN, "", whole):
            found[path] = violations
        if number % BOTH == 0 and (violations := contrast_in_the_light(page, whole)):
            found[f"{path} in the light theme"] = violations
        page.press(Keys.TAB)
        if bare := page.driver.execute_script(NO_RING):
            found[f"{path} without a ring"] = bare[:4]
    assert not found, json.dumps(found, indent=1)
