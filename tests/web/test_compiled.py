"""Templates lose their indentation on their way, and nothing else."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from flask import Flask
from jinja2 import Environment

from fence.web.compiled import Lean
from tests.conftest import Visitor

TEMPLATES = Path(__file__).parents[2] / "src" / "fence" / "web" / "templates"
PATHS = ("/", "/shows/2/rig", "/shows/2/address?u=3", "/shows/3/set/47", "/shows/1/lines/pull")


@pytest.mark.parametrize("path", PATHS)
def test_no_line_of_a_page_is_indented(app: Flask, path: str) -> None:
    """A page is read by machines; half of it would be spaces."""
    page = app.test_client().get(path).text
    assert "<main" in page
    assert not re.search(r"\n[ \t]{2,}<", page)
    assert len(re.findall(r"[ \n]", page)) < len(page) / 4


def test_words_stay_apart_as_they_were() -> None:
    """Between two words some white space stays where there was some, and none comes in."""
    environment = Environment(extensions=[Lean], autoescape=True)
    written = (
        "<p>\n    one\n\n    <b>two</b>{{ x }} \t\n  three  four\n</p>\n"
        "  {% if x %}\n  five{% endif %}"
    )
    assert environment.from_string(written).render(x="2") == (
        "<p>\none\n<b>two</b>2\nthree  four\n</p>\n\nfive"
    )


def test_what_was_typed_is_not_touched(visitor: Visitor) -> None:
    """Lines that somebody indented come back as they were."""
    typed = "  line,fixture\n\n      Truss,   Fern 1\n"
    token = visitor.get("/shows/1/lines/read") and visitor.token
    form = {"text": typed, "revision": "1", "csrf_token": token}
    assert typed in visitor.client.post("/shows/1/lines/read", data=form).text


def test_no_template_counts_on_its_own_white_space() -> None:
    """What is shown just as it is written holds only what is put in."""
    for template in TEMPLATES.rglob("*.html"):
        written = template.read_text()
        for inside in re.findall(
            r"<(?:pre|textarea)\b[^>]*>(.*?)</(?:pre|textarea)>", written, re.S
        ):
            assert re.fullmatch(r"({{.*?}})?", inside), (template.name, inside)
