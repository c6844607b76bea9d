"""Laying out, trials, sheets, room and the tell-tale slot, on the pages."""

from __future__ import annotations

import csv
import io

import pytest

from fence.core.checks import Severity, check
from fence.core.model.desk import Scale, TellTale
from fence.core.model.fixture import Fixture
from fence.store.shows import ShowStore
from tests.conftest import Visitor


def called(shows: ShowStore, label: str) -> Fixture:
    return next(f for f in shows.get(1).show.fixtures if f.label == label)


def test_a_layout_is_seen_then_made(visitor: Visitor, shows: ShowStore) -> None:
    """A position by round starts: nothing changes by looking, one step makes it, one undo takes it
    back."""
    path = "/shows/1/address/layout?school=round&round=100&whom=Rill&start=2/1&order=number"
    page = visitor.get(path).text
    assert "Lay out like this" in page
    assert "U2 101" in page
    assert shows.get(1).revision == 1
    asked = dict(pair.split("=") for pair in path.split("?")[1].split("&"))
    visitor.post("/shows/1/address/layout", {**asked, "revision": 1})
    assert called(shows, "Rill 1").start == 101
    assert called(shows, "Reed 1").start == 101 + 6 * 24
    assert called(shows, "Lily 1").start == 1
    shows.undo(1, revision=2, who="Test")
    assert called(shows, "Rill 1").start == 65


@pytest.mark.parametrize(
    ("query", "words"),
    [
        ("school=paged&page=0", "Use 1 to 512"),
        ("school=paged&page=many", "not a whole number for page"),
        ("school=waltz", "Choose a way"),
        ("school=round&start=somewhere", "somewhere"),
        ("school=round&ids=99999", "no longer in the show"),
        ("school=spaced&universes=0", "Use 1 and more"),
    ],
)
def test_a_layout_that_cannot_be(visitor: Visitor, query: str, words: str) -> None:
    """What is no number, no school or no fixture is told, and what was typed is still there."""
    page = visitor.get(f"/shows/1/address/layout?{query}")
    assert page.status_code == 422
    assert words in page.text


def test_layouts_that_lose_somebody_say_so(visitor: Visitor) -> None:
    """Fixtures for which no universe is left are named before anything is done."""
    assert (
        "No room for" in visitor.get("/shows/1/address/layout?school=back-to-back&universes=1").text
    )


def test_a_paged_desk_is_offered_pages(visitor: Visitor, shows: ShowStore) -> None:
    """On a desk with pages the form opens on the paged school with its page."""
    form = {"name": "Paged", "desk_name": "Bucket", "desk_page": "20", "revision": 1, "seen": "1"}
    visitor.post("/shows/1/settings", form)
    page = visitor.get("/shows/1/address/layout").text
    assert 'value="paged" checked' in page
    assert 'name="page" value="20"' in page


def test_a_trial_is_kept_or_dropped(visitor: Visitor, shows: ShowStore) -> None:
    """Twelve more battens: it says what it takes, dropping leaves the show, keeping adds them in
    one step."""
    asked = "tried=1&kind=dibber-furrow+%7C+24+channel&quantity=12&position=Canopy+Walk"
    path = f"/shows/1/address/trial?{asked}"
    assert "It fits as it is; nothing else moves." in visitor.get(path).text
    assert shows.get(1).revision == 1
    form = {
        "tried": "1",
        "kind": "dibber-furrow | 24 channel",
        "quantity": "12",
        "position": "Canopy Walk",
    }
    visitor.post("/shows/1/address/trial", {**form, "revision": 1})
    show = shows.get(1).show
    assert len([f for f in show.fixtures if f.position == "Canopy Walk"]) == 19
    assert not [f for f in check(show) if f.severity is Severity.STOP]


@pytest.mark.parametrize(
    ("query", "words", "code"),
    [
        ("change=tansy-pond-wash+%7C+10+channel", "It fits once", 200),
        ("universes=1", "It does not fit:", 200),
        ("kind=dibber-trellis+%7C+110+channel&quantity=14", "and opens U5", 200),
        ("", "Say what to try", 422),
        ("kind=nothing+%7C+x", "Choose a fixture", 422),
        ("kind=dibber-furrow+%7C+24+channel&quantity=-3", "Use whole numbers from 1", 422),
        ("kind=dibber-furrow+%7C+24+channel&quantity=9999", "Use 1 to 2000", 422),
    ],
)
def test_what_a_trial_says(visitor: Visitor, query: str, words: str, code: int) -> None:
    """Another mode, a smaller desk, more than there is room for, and trials that cannot be."""
    page = visitor.get(f"/shows/1/address/trial?tried=1&{query}")
    assert page.status_code == code
    assert words in page.text


def test_the_sheet_of_a_universe(visitor: Visitor) -> None:
    """Every slot with fixture, function and default; contested slots show both; the same comes as a
    file."""
    page = visitor.get("/shows/2/address/sheet/2").text
    assert "Lily 3 + Lily 4" in page
    assert page.count('<th scope="row" class="mono">') == 512
    rows = list(csv.DictReader(io.StringIO(visitor.get("/shows/2/address/sheet/2.csv").text)))
    assert len(rows) == 512
    assert (rows[13]["fixture"], rows[13]["function"]) == ("Lily 3 + Lily 4", "blue / dimmer")
    assert rows[261] == {
        "universe": "2",
        "slot": "262",
        "fixture": "Reed 1",
        "number": "61",
        "function": "shutter",
        "default": "255",
        "kept": "",
    }
    assert rows[511]["kept"] == "reserved"
    assert visitor.get("/shows/2/address/sheet/77").status_code == 422


def test_the_tell_tale_slot_is_kept_and_found_covered(visitor: Visitor, shows: ShowStore) -> None:
    """Switched on it is reserved everywhere, on sheets with its level; who covers it is a stop with
    a mend."""
    form = {
        "tell_tale": "1",
        "on": "1",
        "slot": "1",
        "scale": "percent",
        "revision": 1,
        "seen": "1",
    }
    visitor.post("/shows/1/address/ways", form)
    assert shows.get(1).show.tell_tale == TellTale(1, Scale.PERCENT)
    assert shows.history(1)[0].words == "Tell-tale slot 1, percent"
    covered = [f for f in check(shows.get(1).show) if f.rule == "reserved"]
    assert {f.universe for f in covered} == {1, 2, 3, 4}
    sheet = list(csv.DictReader(io.StringIO(visitor.get("/shows/1/address/sheet/4.csv").text)))
    assert (sheet[0]["kept"], sheet[0]["default"]) == ("tell-tale, percent", "11")
    visitor.post("/shows/1/address/repair", {"revision": 2, "u": 1})
    assert not [f for f in check(shows.get(1).show) if f.severity is Severity.STOP]
    odd = visitor.post("/shows/1/address/ways", {**form, "slot": "900", "revision": 3})
    assert odd.status_code == 422
    visitor.post("/shows/1/address/ways", {"tell_tale": "1", "revision": 3})
    assert shows.get(1).show.tell_tale is None


def test_hard_places_are_moved_last(visitor: Visitor, shows: ShowStore) -> None:
    """A position marked as hard to reach keeps its fixtures when a rig is mended."""
    visitor.post("/shows/2/address/ways", {"hard": ["Lily Pond", "Rill"], "revision": 1})
    assert shows.get(2).show.hard_positions == {"Lily Pond", "Rill"}
    assert "hard to reach" in visitor.get("/shows/2/address?pick=28").text
    visitor.post("/shows/2/address/ways", {"revision": 2})
    assert not shows.get(2).show.hard_positions


def test_where_there_is_room(visitor: Visitor) -> None:
    """All universes with their gaps, and where a run of some length first fits."""
    page = visitor.get("/shows/2/address/room?length=24&sort=free").text
    assert page.index("U4 Gatehouse") < page.index("U1 Palm house")
    assert "U3 439" in page
    assert visitor.get("/shows/2/address/room?length=words").status_code == 200
