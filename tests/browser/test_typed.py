"""What was typed is never lost: whatever is refused, the form stands there as it was filled in."""

from __future__ import annotations

from dataclasses import dataclass

import pytest

from tests.browser.conftest import Page, on_each_page

pytestmark = pytest.mark.browser


@dataclass(frozen=True)
class Refused:
    """A form, what is typed into it, and the one field of it that is wrong."""

    path: str
    action: str
    typed: dict[str, str]
    wrong: str
    told: str


FORMS = [
    Refused(
        "/shows/2/network",
        "/network/step/add",
        {"name": "Barn dock", "ports": "6", "ip": "10.0.0"},
        "ip",
        "is not a network address",
    ),
    Refused(
        "/shows/2/network?box=2",
        "/network/step/save",
        {"name": "palm dock 2", "ip": "10.0.0.9", "prefix": "x", "model": "T4"},
        "prefix",
        "“x” is not a mask",
    ),
    Refused(
        "/shows/2/lines",
        "/lines/step/add",
        {"name": "Line Q", "universe": "a lot"},
        "universe",
        "“a lot” is not a valid universe",
    ),
    Refused(
        "/shows/2/lines/ground",
        "/lines/ground",
        {"slack": "seven", "sockets": "FOH"},
        "slack",
        "Slack is a whole number",
    ),
    Refused(
        "/shows/2/lines/day",
        "/lines/day",
        {"set_up": "8", "doors": "late", "end": "23:00", "reserve": "15"},
        "doors",
        "is not a time of day",
    ),
    Refused(
        "/shows/2/rig/28",
        "/rig/28",
        {"label": "Lily 4b", "note": "left arm", "address": "2/999"},
        "address",
        "999",
    ),
    Refused(
        "/shows/2/settings",
        "/settings",
        {"name": "Glasshouse 2", "desk_universes": "0"},
        "desk_universes",
        "1",
    ),
]

FILL = """
const [action, typed] = arguments;
const form = [...document.forms].find((one) =>
  one.getAttribute("method") === "post" &&
  new URL(one.getAttribute("action") || location.href, location.href).pathname.endsWith(action) &&
  Object.keys(typed).every((name) => one.elements[name]));
if (!form) return null;
form.noValidate = true;
for (const [name, value] of Object.entries(typed)) form.elements[name].value = value;
const button = form.querySelector("button[type=submit].btn-primary, button:not([formaction])");
setTimeout(() => form.requestSubmit(button), 0);
return true;
"""
HELD = """
const [action, names] = arguments;
const form = [...document.forms].find((one) =>
  one.getAttribute("method") === "post" &&
  new URL(one.getAttribute("action") || location.href, location.href).pathname.endsWith(action) &&
  names.every((name) => one.elements[name]));
return form && Object.fromEntries(names.map((name) => [name, form.elements[name].value]));
"""
MESSAGES = "#refused, main .problem, main .invalid"


def test_a_refused_form_stands_as_it_was_typed(page: Page) -> None:
    """With the reason beside it, and the focus at it; nothing was saved."""
    for form in FORMS:
        refused_as_typed(page, form)


NOTED = "window.noted = []; addEventListener('input', (e) => noted.push(e.target.name), true)"


def test_what_follows_a_field_begins_anew(page: Page) -> None:
    """A preview or picture that follows what is typed is told of every field that was put back."""
    form = FORMS[0]
    with on_each_page(page, NOTED):
        refused_as_typed(page, form)
        page.wait(
            lambda: set(form.typed) <= set(page.driver.execute_script("return noted")),
            "nothing is told of the fields",
        )


def refused_as_typed(page: Page, form: Refused) -> None:
    page.open(form.path)
    assert page.driver.execute_script(FILL, form.action, form.typed)
    page.wait(
        lambda: any(
            form.told in one.text for one in page.driver.find_elements("css selector", MESSAGES)
        ),
        f"no message says {form.told!r}",
    )
    assert page.driver.execute_script(HELD, form.action, list(form.typed)) == form.typed
    assert page.driver.switch_to.active_element.tag_name != "body"
    assert page.one("#undo-button").get_attribute("disabled"), "something was saved"
