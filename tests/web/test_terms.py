"""The help of a page: what it is for, and the words that it uses."""

from __future__ import annotations

import re
from html import unescape
from pathlib import Path

import pytest
from flask import Flask

from fence.web.places import PLACES
from fence.web.terms import OF_STEP, TERMS
from tests.conftest import Visitor

GLOSSARY = Path(__file__).parents[2] / "docs" / "glossary.md"


def test_the_terms_are_those_of_the_glossary() -> None:
    """Word for word, so that there is one list."""
    rows = [line for line in GLOSSARY.read_text().splitlines() if line.startswith("| **")]
    cells = [re.sub(r"[*`]", "", row).strip("| ").split(" | ") for row in rows]
    assert {cell[0]: cell[1] for cell in cells} == TERMS


def test_each_step_has_five_terms() -> None:
    """Of the glossary, each once."""
    for step, terms in OF_STEP.items():
        assert len(set(terms)) == 5, step
        assert set(terms) <= TERMS.keys()


@pytest.mark.parametrize("place", PLACES, ids=lambda place: place.endpoint)
def test_each_page_says_what_it_is_for(visitor: Visitor, app: Flask, place) -> None:  # type: ignore[no-untyped-def]
    """In one sentence, beside its keys, with five terms."""
    with app.test_request_context():
        url = app.url_for(place.endpoint, show_id=1, **place.args)
    answer = visitor.get(url)
    if answer.status_code == 302:
        return
    page = unescape(answer.text)
    if 'id="keys"' in page:
        first = next(one for one in PLACES if one.endpoint == place.endpoint)
        assert f"{first.title}: {first.note}." in page
        assert page.split('class="terms"')[1].split("</dl>")[0].count("<dt>") == 5
