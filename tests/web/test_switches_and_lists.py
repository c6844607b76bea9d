"""Switches both ways, and lists on paper."""

from __future__ import annotations

import io
import re
from html import unescape

import pytest
from pypdf import PdfReader

from fence.core.model.setter import switches_on
from fence.store.shows import ShowStore
from tests.conftest import Visitor
from tests.rigs import rig


def row(page: str) -> list[int]:
    """The switches that are on, from the row as it is drawn."""
    return sorted(int(n) for n in re.findall(r'name="tap" value="(\d+)" aria-pressed="true"', page))


def test_switches_both_ways_without_a_show(visitor: Visitor) -> None:
    """An address gives the row, taps give the address; the sum is written out; what is wrong is
    told."""
    page = visitor.get("/switches?address=97").text
    assert row(page) == [1, 6, 7]
    assert "64 + 32 + 1 = 97" in page
    tapped = visitor.get(
        "/switches?address=97&was=97&on=1,6,7&tap=2", headers={"HX-Request": "true"}
    ).text
    assert (row(tapped), 'value="99"' in tapped, "<html" in tapped) == ([1, 2, 6, 7], True, False)
    off = visitor.get("/switches?on=1&was=1&address=1&tap=1").text
    assert "These switches say 0, which is not an address" in off
    for wrong in ("0", "513", "twelve"):
        page = visitor.get(f"/switches?address={wrong}").text
        assert f"“{wrong}” is not a start address. Use whole numbers from 1 to 512." in page
        assert f'value="{wrong}"' in page
    assert (
        "9 switches cannot hold address 512: they hold 1 to 511"
        in visitor.get("/switches?address=512").text
    )
    zero = visitor.get("/switches?address=512&zero=1").text
    assert "= 511, and 1 since they count from 0: 512" in zero
    assert (
        "Not yet: switch 10 must be on besides" in visitor.get("/switches?extra=10&on=1&tap=2").text
    )
    assert "switch 10 must be on" in unescape(visitor.get("/switches?extra=10&address=5").text)


def test_switches_of_the_rig(visitor: Visitor, shows: ShowStore) -> None:
    """In a show the types with switches can be chosen, as their chart says they stand."""
    fern = shows.get(2).show.fixtures[4]
    page = visitor.get(f"/shows/2/switches?kind={fern.profile}&address=65").text
    assert (
        row(page)
        == list(switches_on(65, shows.get(2).show.profile_by_id[fern.profile].setter))
        == [1, 7, 10]
    )
    assert "Besides the address, switch 10 must be on." in page
    assert visitor.get("/shows/99/switches").status_code == 404


def text_of(data: bytes) -> list[str]:
    return [page.extract_text() for page in PdfReader(io.BytesIO(data)).pages]


def test_the_list_by_fixture_on_paper(visitor: Visitor, shows: ShowStore) -> None:
    """Every fixture once with its address; show, revision and heads on every page; the file is
    called as the show."""
    answer = visitor.client.get("/shows/2/lists/list.pdf?by=fixture&order=address")
    assert (
        answer.headers["Content-Disposition"]
        == 'attachment; filename="glasshouse-after-dark-fixtures.pdf"'
    )
    pages = text_of(answer.data)
    assert len(pages) == 3
    for number, page in enumerate(pages, 1):
        assert "Glasshouse After Dark · Fixtures" in page
        assert "Revision 1 ·" in page
        assert "Label Fixture and mode" in page
        assert f"Page {number} of 3" in page
    whole = "\n".join(pages)
    for fixture in shows.get(2).show.fixtures:
        assert len(re.findall(rf"\b{re.escape(fixture.label)}\b", whole)) >= 1
    placed = re.findall(r"U(\d) (\d{3})", whole)
    assert placed == sorted(placed)
    html = visitor.get("/shows/2/lists?whom=at+Fern+Gully").text
    assert ("Fern 6" in html, "Palm 1" in html) == (True, False)
    assert "Mist 2" in "\n".join(
        text_of(visitor.client.get("/shows/2/lists/list.pdf?whom=at+Fern+Gully").data)
    )


def test_the_list_by_channel_folds_free_slots_and_names_fixtures_again(
    visitor: Visitor, shows: ShowStore
) -> None:
    """A run that goes over a column is named at its top; free slots are one line; every slot is
    there once."""
    show = rig(("Long", 300, 1, 11), ("Short", 2, 1, 500))
    made = shows.create(show, who="Test")
    pages = text_of(visitor.client.get(f"/shows/{made.id}/lists/list.pdf?by=channel").data)
    whole = "\n".join(pages)
    assert whole.count("Long") == 6  # 300 slots over six columns
    assert whole.count("Short") == 1
    for words in ("1 to 10 10 slots free", "311 to 499 189 slots free", "502 to 512 11 slots free"):
        assert words in re.sub(r" +", " ", whole)
    assert len(pages) == 3


@pytest.mark.parametrize("query", ["whom=u77", "by=channel&whom=u77"])
def test_a_list_of_what_is_not_there(visitor: Visitor, query: str) -> None:
    """A universe that the show does not have is told."""
    assert "The show has no universe 77." in visitor.get(f"/shows/2/lists?{query}").text
    assert visitor.get("/shows/2/lists?whom=at+Nowhere&by=channel").status_code == 200


def test_paper_takes_any_text(visitor: Visitor, shows: ShowStore) -> None:
    """Long words, other alphabets and an empty show make a list, not an error."""
    names = ("x" * 900, "Прожектор слева", "מנורה 3", "灯 1", "tab\tand\nline", "<b>bold</b>")
    made = shows.create(rig(*((name, 4, 1, 1 + 9 * n) for n, name in enumerate(names))), who="Test")
    for by in ("fixture", "channel"):
        text = "\n".join(
            text_of(visitor.client.get(f"/shows/{made.id}/lists/list.pdf?by={by}").data)
        )
        assert "Прожектор" in text
        assert "<b>bold</b>" in text
    empty = shows.create(rig(), who="Test")
    assert (
        "No fixtures on this list."
        in text_of(visitor.client.get(f"/shows/{empty.id}/lists/list.pdf").data)[0]
    )
    assert visitor.client.get(f"/shows/{empty.id}/lists/list.pdf?by=channel").status_code == 200
    assert "Add some first" in visitor.get(f"/shows/{empty.id}/lists").text
