"""The rig list, the find box and the panel of findings: what is shown is what was asked for."""

from __future__ import annotations

import re
from html import unescape

import pytest

from fence.core.checks import RULES, findings_of
from fence.demo import demo_show
from fence.store.shows import ShowStore
from tests.conftest import Visitor


def labels(text: str) -> list[str]:
    """The labels of the list, in order."""
    shown = re.findall(r'<td role="cell" class="label"><a [^>]*>([^<]*)</a>', text)
    return [unescape(found) for found in shown]


SORTS = {
    "number": lambda f: (f.number is None, f.number or 0),
    "label": lambda f: f.label.casefold(),
    "position": lambda f: f.position.casefold(),
    "address": lambda f: (f.start is None, f.universe or 0, f.start or 0),
}


@pytest.mark.parametrize("down", [False, True])
@pytest.mark.parametrize("sort", list(SORTS))
def test_every_column_sorts_both_ways(visitor: Visitor, sort: str, down: bool) -> None:
    """A list sorted by a column is in that order, and every fixture is in it."""
    text = visitor.get(f"/shows/2/rig?sort={sort}&dir={'down' if down else ''}").text
    ordered = sorted(demo_show().fixtures, key=SORTS[sort], reverse=down)
    assert labels(text) == [fixture.label for fixture in ordered]
    assert f'aria-sort="{"descending" if down else "ascending"}"' in text


@pytest.mark.parametrize(
    ("query", "expected"),
    [
        ("q=lily+44", ["Lily 4"]),
        ("q=lily+4", ["Lily 4", "Storm"]),  # Storm hangs at the Lily Pond in its 4 channel mode
        ("q=overlap", ["Fern 5", "Fern 6", "Lily 3", "Lily 4"]),
        ("q=trellis&position=Canopy+Walk", ["Canopy 1", "Canopy 2", "Canopy 3"]),
        ("q=gate+pair", ["Gate A", "Gate B"]),
        ("q=u4+257", ["Gate A", "Gate B"]),
        ("q=old+work+lights", ["Orchid rack"]),
        ("q=nothing+like+it", []),
    ],
)
def test_the_filter_reads_all_that_a_fixture_says(
    visitor: Visitor, query: str, expected: list[str]
) -> None:
    """Label, type, position, address, sharing group, note and problem can all be typed."""
    assert labels(visitor.get(f"/shows/2/rig?{query}").text) == expected


@pytest.mark.parametrize(
    ("words", "first"),
    [
        ("44", "Lily 4"),
        ("lily 4", "Lily 4"),
        ("2/130", "Rill 3"),
        ("526", "Lily 3"),
        ("canopy", "Canopy 1"),
    ],
)
def test_find_takes_names_numbers_and_addresses(visitor: Visitor, words: str, first: str) -> None:
    """The find box gives who is called so, or who stands at that slot; absolute numbers are slots
    too."""
    text = visitor.get("/shows/2/rig/find", query_string={"find": words}).text
    assert re.findall(r"<b>([^<]*)</b>", text)[0] == first


def test_the_panel_tells_every_finding_and_leads_to_its_place(visitor: Visitor) -> None:
    """Each finding is there with its title and reason, worst first, and its link picks a fixture
    that it names."""
    found = findings_of(demo_show())
    text = unescape(visitor.get("/shows/2/findings").text)
    places = [text.index(finding.message) for finding in found]
    assert places == sorted(places)
    assert all(RULES[finding.rule].why in text for finding in found)
    links = re.findall(r'<a href="(/shows/2/(?:address|lines|network)\?[^"]+)"', text)
    for finding, link in zip(found, links, strict=True):
        assert ("/network?" in link) == (finding.box is not None)
        assert ("/lines?" in link) == (bool(finding.line) and finding.box is None)
        if finding.fixtures and not finding.line:
            label = demo_show().fixture(finding.fixtures[-1]).label
            assert f"<h2>{label}</h2>" in visitor.get(link).text
    only = visitor.get("/shows/2/findings?severity=caution&part=list").text
    assert only.count("<li") == 5


def test_bulk_steps_in_rig_order(visitor: Visitor, shows: ShowStore) -> None:
    """Pin, share, end sharing, take addresses away and remove work on the picked ones, each as one
    edit."""
    lilies = [f.id for f in shows.get(1).show.fixtures if f.label.startswith("Lily")]

    def bulk(action: str, picked: list[int], **values: object) -> str:
        form = {
            "revision": shows.get(1).revision,
            "picked": picked,
            "action": action,
            "seen": "1",
            **values,
        }
        assert visitor.post("/shows/1/rig/bulk", form).status_code == 302
        return shows.history(1)[0].words

    assert bulk("pin", lilies[:3]) == "3 fixtures, Lily 1 to Lily 3 pinned"
    assert bulk("unpin", lilies[:3]) == "3 fixtures, Lily 1 to Lily 3 unpinned"
    assert bulk("share", [lilies[3], lilies[2]], group="Pair") == "Lily 3 and Lily 4 share U2 011"
    assert bulk("unshare", lilies[2:4]) == "Lily 3 and Lily 4 no longer share an address"
    assert bulk("unplace", lilies[:2]) == "Lily 1 and Lily 2 moved"
    assert (
        bulk("change", list(reversed(lilies)), number=900)
        == "Renumbered 10 fixtures, Lily 1 to Lily 10"
    )
    assert [shows.get(1).show.fixture(i).number for i in lilies] == list(range(900, 910))
    assert bulk("remove", lilies) == "Removed 10 fixtures, Lily 1 to Lily 10"
