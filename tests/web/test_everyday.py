"""What people reach for every day in the rig: copies, another type, functions in a line."""

from __future__ import annotations

import csv
import re
from codecs import BOM_UTF8

from fence.store.shows import ShowStore
from tests.conftest import Visitor


def bulk(visitor: Visitor, shows: ShowStore, **fields: object) -> str:
    """Send the form of the selected fixtures of the clean show; what is said then."""
    form = {"revision": shows.get(1).revision, **fields}
    done = visitor.post("/shows/1/rig/bulk", form)
    if done.status_code == 302:
        return visitor.get(done.headers["Location"].replace("http://localhost", "")).text
    return done.text


def test_duplicates_are_made_and_undone(visitor: Visitor, shows: ShowStore) -> None:
    """Names and numbers count on, addresses are free, and one undo takes them away; a bad number
    keeps what was typed and changes nothing."""
    before = shows.get(1).show
    refused = visitor.post(
        "/shows/1/rig/bulk",
        {
            "revision": shows.get(1).revision,
            "picked": [1, 2],
            "action": "duplicate",
            "copies": "2001",
            "on_line": "y",
        },
    )
    assert refused.status_code == 422
    assert "Accepted are 1 to 2000." in refused.text
    assert 'value="2001"' in refused.text
    assert shows.get(1).show == before
    page = bulk(visitor, shows, picked=[1, 2], action="duplicate", copies=2, on_line="y")
    after = shows.get(1).show
    new = after.fixtures[len(before.fixtures) :]
    assert [fixture.label for fixture in new] == ["Palm 5", "Palm 6", "Palm 7", "Palm 8"]
    assert all(fixture.start is not None for fixture in new)
    assert "Added 4 fixtures, Palm 5 to Palm 8" in page
    hung = {stop.fixture for line in after.lines for stop in line.stops}
    assert {fixture.id for fixture in new} <= hung
    assert not shows.get(1).analysis.verdict.stops
    visitor.post("/shows/1/undo", {"revision": shows.get(1).revision})
    assert shows.get(1).show.fixtures == before.fixtures


def test_another_type_is_seen_first(visitor: Visitor, shows: ShowStore) -> None:
    """What becomes of channels and addresses is shown before; then it is one step. A longer type
    clashes, and the mend moves it."""
    chosen = "teasel-lance | 34 channel"
    seen = visitor.post(
        "/shows/1/rig/bulk",
        {
            "revision": shows.get(1).revision,
            "picked": [1, 2],
            "action": "preview-kind",
            "kind": chosen,
        },
    )
    where = seen.headers["Location"].replace("http://localhost", "")
    page = visitor.get(where).text
    assert "Exchange the type" in page
    assert "Teasel Lance, 34 channel" in page
    assert "16 → 34" in page
    assert "Change and mend" in page
    form = {"revision": shows.get(1).revision, "ids": "1,2", "kind": chosen, "mend": 1, "seen": 1}
    visitor.post("/shows/1/modes/change", form)
    after = shows.get(1)
    assert [after.show.fixture(i).profile for i in (1, 2)] == ["teasel-lance"] * 2
    assert [after.show.fixture(i).label for i in (1, 2)] == ["Palm 1", "Palm 2"]
    assert not after.analysis.verdict.stops
    none = visitor.post(
        "/shows/1/rig/bulk",
        {"revision": after.revision, "picked": [1], "action": "preview-kind", "kind": ""},
    )
    assert "Choose the type that should take the places" in none.text


def test_a_whole_position_hangs_upside_down(visitor: Visitor, shows: ShowStore) -> None:
    """All that are selected are turned in one step, and back."""
    bulk(visitor, shows, picked=[1, 2, 3], action="turn-over")
    assert [shows.get(1).show.fixture(i).turned for i in (1, 2, 3, 4)] == [True] * 3 + [False]
    bulk(visitor, shows, picked=[1, 2], action="turn-upright")
    assert [shows.get(1).show.fixture(i).upright for i in (1, 2, 3)] == [True, True, False]


def test_a_fixture_without_a_chart_says_what_it_does(visitor: Visitor, shows: ShowStore) -> None:
    """Channels are a number or functions; what is neither is told, with what was typed kept."""
    form = {"kind": "any", "quantity": 2, "label": "Pot 1", "universe": 4}
    for channels, functions in (("R G B W", 4), ("6", None)):
        sent = {**form, "channels": channels, "revision": shows.get(1).revision}
        assert visitor.post("/shows/1/rig/add", sent).status_code == 302
        show = shows.get(1).show
        mode = show.mode_of(show.fixtures[-1])
        assert mode is not None
        assert mode.footprint == (functions or 6)
        named = [str(channel.function) for channel in mode.parts[0].channels]
        assert named == (["red", "green", "blue", "white"] if functions else [])
    sent = {**form, "channels": "R G blorb", "revision": shows.get(1).revision}
    refused = visitor.post("/shows/1/rig/add", sent)
    assert refused.status_code == 422
    assert "What “blorb” does is not known" in refused.text
    assert 'value="R G blorb"' in refused.text
    for channels in ("0", "513", ""):
        sent = {**form, "channels": channels, "revision": shows.get(1).revision}
        assert visitor.post("/shows/1/rig/add", sent).status_code == 422


def test_generic_types_are_there(visitor: Visitor) -> None:
    """They can be chosen like any other type, from an empty show on."""
    page = visitor.get("/shows/1/rig/add").text
    for words in ("Generic LED, RGBAW+UV (6 ch)", "Generic dimmer, 1 channel (1 ch)"):
        assert words in page


def test_tables_come_as_the_spreadsheet_likes_them(visitor: Visitor, shows: ShowStore) -> None:
    """What was chosen for one CSV holds for all others of this browser, and they say the same."""
    links = [
        link
        for page in ("lines/plans", "lines/pull", "lines/stock", "address/sheet/1")
        for link in re.findall(r'href="([^"]+\.csv[^"]*)"', visitor.get(f"/shows/1/{page}").text)
    ]
    assert len(set(links)) >= 3
    plain = {link: visitor.get(link).get_data() for link in links}
    rig = visitor.get("/shows/1/export.csv?delimiter=semicolon&marked=y").get_data()
    assert rig.startswith(BOM_UTF8)
    for link, before in plain.items():
        now = visitor.get(link).get_data()
        assert now.startswith(BOM_UTF8)
        assert list(csv.reader(now.decode("utf-8-sig").splitlines(), delimiter=";")) == list(
            csv.reader(before.decode().splitlines())
        )
