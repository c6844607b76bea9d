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
const frames = [".content", ".offcanvas.show", "dialog[open]"];
const inner = frames.filter((one) => document.querySelector(one));
const whole = arguments[0] || !inner.includes(".content");
const what = whole ? document : {include: inner.map((one) => [one])};
const slow = {"color-contrast": {enabled: arguments[0]}, "target-size": {enabled: arguments[0]}};
const told = (n) => n.html.slice(0, 160) + n.failureSummary;
const all = {resultTypes: ["violations"], runOnly: {type: "tag", values: tags}, rules: slow};
axe.run(what, all).then((r) => done(r.violations
  .filter((v) => ["serious", "critical"].includes(v.impact))
  .map((v) => v.id + ": " + v.nodes.slice(0, 3).map(told).join(" | "))));
"""
"""What axe finds. Two of its rules take it four times as long as all the others: on most screens
``PALE`` looks at contrast instead, and ``TOO_SMALL`` at sizes, by a stricter measure."""

PALE = """
const paint = document.createElement("canvas").getContext("2d", {willReadFrequently: true});
const known = new Map();
const rgba = (colour) => {
  if (!known.has(colour)) {
    paint.clearRect(0, 0, 1, 1);
    paint.fillStyle = colour;
    paint.fillRect(0, 0, 1, 1);
    const [r, g, b, a] = paint.getImageData(0, 0, 1, 1).data;
    known.set(colour, [r, g, b, a / 255]);
  }
  return known.get(colour);
};
const over = (above, below, opacity = 1) => {
  const share = above[3] * opacity;
  return [0, 1, 2].map((i) => above[i] * share + below[i] * (1 - share));
};
const light = (colour) => {
  const [r, g, b] = colour.map((value) => {
    const part = value / 255;
    return part <= 0.04045 ? part / 12.92 : ((part + 0.055) / 1.055) ** 2.4;
  });
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
};
const grounds = new Map();
const groundOf = (e) => {
  if (!e) return {colour: rgba("Canvas").slice(0, 3), opacity: 1, plain: true};
  if (!grounds.has(e)) {
    const style = getComputedStyle(e);
    const below = groundOf(e.parentElement);
    const opacity = below.opacity * parseFloat(style.opacity);
    grounds.set(e, {
      colour: over(rgba(style.backgroundColor), below.colour, opacity),
      opacity,
      plain: (below.plain || rgba(style.backgroundColor)[3] === 1) &&
        style.backgroundImage === "none",
    });
  }
  return grounds.get(e);
};
const off = "svg *, :disabled, [aria-disabled=true], .visually-hidden, [hidden], option";
const typed = "textarea, input:not([type=range], [type=checkbox], [type=radio], [type=file])";
const found = new Map();
for (const e of document.body.querySelectorAll("*")) {
  const words = [...e.childNodes].some((n) => n.nodeType === 3 && n.data.trim());
  if (!words && !e.matches(typed) || e.closest(off)) continue;
  if (!e.checkVisibility({visibilityProperty: true})) continue;
  const style = getComputedStyle(e);
  const ground = groundOf(e);
  if (!ground.plain) continue;
  const size = parseFloat(style.fontSize);
  const large = size >= 24 || size >= 18.66 && parseInt(style.fontWeight) >= 700;
  const ink = light(over(rgba(style.color), ground.colour, ground.opacity));
  const paper = light(ground.colour);
  const ratio = (Math.max(ink, paper) + 0.05) / (Math.min(ink, paper) + 0.05);
  if (ratio >= (large ? 3 : 4.5)) continue;
  const look = `${style.color} on ${ground.colour.map(Math.round)}: ${ratio.toFixed(2)}`;
  found.set(look, e.outerHTML.slice(0, 110));
}
return [...found].map(([look, one]) => look + " " + one);
"""
"""Texts with less contrast to what lies behind them than WCAG 2.2 wants (1.4.3: 4.5 to 1, large
ones 3 to 1), one of each look. What lies on a picture or a gradient is left out, as are controls
that cannot be used."""


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
IN_THE_DARK = 3
"""Every so many screens are looked at in the dark theme, the others in the light one, another third
on each of the parts; contrast is looked at in both."""
NARROWEST = 320
"""Pixels into which every page has to flow."""
THEME = "document.documentElement.dataset.bsTheme = arguments[0]"


WIDTH_AND_AWAY = """
const root = document.documentElement;
const wide = root.scrollWidth;
root.style.display = "none";
return wide;
"""
"""How wide the page is, which then goes: nobody looks at it again, and it is not laid out anew."""


OPENED = """
for (const folded of document.querySelectorAll("details:not([open])")) {
  if (!folded.querySelector("[hx-trigger]")) folded.open = true;
}
"""
"""Unfolds what a thumb can unfold, but for what is asked for only then."""


def missed_by_a_thumb(page: Page) -> list[str]:
    """What is too small or too wide at 390 by 844 with touch; the page is turned into a phone where
    it stands."""
    page.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", PHONE)
    page.driver.execute_cdp_cmd("Emulation.setTouchEmulationEnabled", {"enabled": True})
    page.driver.execute_script(OPENED)
    page.driver.execute_async_script(DRAWN)
    found: list[str] = page.driver.execute_script(TOO_SMALL)
    found += page.driver.execute_script(SIDEWAYS)
    wide = page.driver.execute_script("return document.documentElement.scrollWidth")
    found = [*found[:4], *([f"{wide} px wide"] if wide > PHONE["width"] else [])]
    narrow = {**PHONE, "width": NARROWEST}
    page.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", narrow)
    page.driver.execute_async_script(DRAWN)
    wide = page.driver.execute_script(WIDTH_AND_AWAY)
    page.driver.execute_cdp_cmd("Emulation.setTouchEmulationEnabled", {"enabled": False})
    page.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", DESK)
    return [*found, *([f"{wide} px wide at {NARROWEST}"] if wide > NARROWEST else [])]


def test_pale_words_are_found(page: Page) -> None:
    """Contrast is taken from what lies behind words, wherever that is said, and how large they
    are."""
    page.open("/")
    ink = "color"  # codespell:ignore color
    on_white = {
        f"{ink}: #767676": "4.54",
        f"{ink}: #777": "4.48",
        f"{ink}: #000; opacity: 0.5": "3.98",
        f"{ink}: #949494; font-size: 24px": "3.03",
        f"{ink}: #969696; font-size: 24px": "2.96",
    }
    written = """
        const main = document.querySelector("main");
        main.textContent = "";
        for (const [style, words] of Object.entries(arguments[0])) {
          const box = main.appendChild(document.createElement("div"));
          box.style.background = "#fff";
          const one = box.appendChild(document.createElement("p"));
          one.style.cssText = style;
          one.textContent = words;
        }
    """
    page.driver.execute_script(THEME, "light")
    page.driver.execute_script(written, on_white)
    found = page.driver.execute_script(PALE)
    ratios = sorted(one.split("</p>")[0][-4:] for one in found)
    assert ratios == ["2.96", "3.98", "4.48"], found
    assert all(f": {ratio} <p" in " ".join(found) for ratio in ratios), found


@pytest.mark.parametrize("part", range(PARTS))
def test_no_serious_violation(page: Page, part: int, tmp_path: Path) -> None:
    """axe-core finds nothing serious or critical on any screen, in the one theme or the other;
    whatever takes the focus by keys shows a ring; on a phone nothing that can be touched is
    smaller than 44 px, and no page is wider than the screen, at 320 px either. Words stand out in
    both."""
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
        themes = ("light", "dark")
        for theme in themes if number % IN_THE_DARK == part % IN_THE_DARK else reversed(themes):
            page.driver.execute_script(THEME, theme)
            if pale := page.driver.execute_script(PALE):
                found[f"{path} {theme}"] = pale[:4]
        if violations := page.driver.execute_async_script(RUN, whole):
            found[path] = violations
        page.press(Keys.TAB)
        if bare := page.driver.execute_script(NO_RING):
            found[f"{path} without a ring"] = bare[:4]
        if missed := missed_by_a_thumb(page):
            found[f"{path} for a thumb"] = missed
    return found
