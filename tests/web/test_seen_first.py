"""Whichever way an edit comes: what makes a new stop is shown first, then done as it is or with the
repair."""

from __future__ import annotations

import re
from html import unescape

import pytest

from fence.core.checks import analyse
from fence.demo import clean_show
from fence.store.shows import ShowStore
from tests.conftest import Visitor

CLEAN = {fixture.label: fixture for fixture in clean_show().fixtures}


def ids(*labels: str) -> list[int]:
    return [CLEAN[label].id for label in labels]


def lily(**values: str) -> dict[str, object]:
    shown = CLEAN["Lily 4"]
    known = {
        "label": shown.label,
        "number": shown.number,
        "mode": shown.mode,
        "position": shown.position,
        "note": "",
    }
    return {**known, "address": f"{shown.universe}/{shown.start}", **values}


LILY_3, LILY_4 = ids("Lily 3", "Lily 4")
ON_LILY_3 = f"{CLEAN['Lily 3'].universe}/{CLEAN['Lily 3'].start}"
WAYS: dict[str, tuple[str, dict[str, object]]] = {
    "typed address": ("address/move", {"fixture": LILY_4, "u": 2, "address": ON_LILY_3}),
    "block": ("address/move", {"fixture": LILY_4, "also": LILY_3, "u": 2, "address": "1/1"}),
    "unlike swap": ("address/block/swap", {"pick": LILY_4, "also": ids("Palm 1")[0]}),
    "end of sharing": ("rig/bulk", {"action": "unshare", "picked": ids("Gate A", "Gate B")}),
    "fixture page, address": (f"rig/{LILY_4}", lily(address=ON_LILY_3)),
    "fixture page, mode": (
        f"rig/{ids('Fern 1')[0]}",
        {
            "label": "Fern 1",
            "number": CLEAN["Fern 1"].number,
            "mode": "10 channel",
            "position": CLEAN["Fern 1"].position,
            "note": "",
            "address": f"{CLEAN['Fern 1'].universe}/{CLEAN['Fern 1'].start}",
        },
    ),
    "mode in the rig": (
        "rig/bulk",
        {"action": "change", "picked": ids("Fern 1", "Fern 2"), "mode": "10 channel"},
    ),
    "mode change": (
        "modes/change",
        {"ids": ",".join(map(str, ids("Fern 1", "Fern 2"))), "mode": "10 channel"},
    ),
    "desk": ("settings", {"name": "Small", "desk_name": "Trug", "desk_highest": "100"}),
    "reserved": ("address/universes/2", {"number": 2, "name": "", "reserved": "1-9"}),
    "tell-tale": ("address/ways", {"tell_tale": "1", "on": "1", "slot": "1", "scale": "percent"}),
    "added": (
        "rig/add",
        {
            "kind": f"{CLEAN['Lily 4'].profile} | {CLEAN['Lily 4'].mode}",
            "quantity": 1,
            "label": "New",
            "universe": 2,
            "start": ON_LILY_3,
        },
    ),
}
HARD = {"desk", "end of sharing"}
"""Where the repair may leave stops: a desk that is too small, and a group whose members are pinned
or nowhere to go."""


@pytest.mark.parametrize("way", WAYS)
def test_new_stops_are_seen_first(visitor: Visitor, shows: ShowStore, way: str) -> None:
    """Nothing is saved at first; the page names the new stop; its form does it, with or without the
    repair."""
    path, values = WAYS[way]
    form = {**values, "revision": shows.get(1).revision}
    assert shows.get(1).analysis.verdict.stops == 0
    page = visitor.post(f"/shows/1/{path}", form)
    assert (page.status_code, shows.get(1).revision) == (200, 1), page.text
    assert "Apply anyway" in page.text
    assert "new stop" in page.text
    sent = {
        unescape(n): unescape(v)
        for n, v in re.findall(r'type="hidden" name="([^"]+)" value="([^"]*)"', page.text)
    }
    assert sent.items() >= {"revision": "1", "seen": "1"}.items()
    done = visitor.post(f"/shows/1/{path}", {**form, "seen": "1"})
    assert done.status_code == 302, done.text
    stops = [
        finding.message
        for finding in shows.get(1).analysis.findings
        if str(finding.severity) == "stop"
    ]
    assert stops
    told = visitor.get(done.headers["Location"]).text
    assert "new stop" in unescape(told)
    shows.undo(1, revision=shows.get(1).revision, who="Test")
    visitor.post(
        f"/shows/1/{path}", {**form, "revision": shows.get(1).revision, "repair": "1", "seen": "1"}
    )
    left = analyse(shows.get(1).show).verdict.stops
    # what was just edited moves, nobody else
    if way in ("added", "typed address", "fixture page, address"):
        edited = shows.get(1).show.fixtures[-1].id if way == "added" else LILY_4
        assert [f for f in shows.get(1).show.fixtures if f.id != edited] == [
            f for f in clean_show().fixtures if f.id != edited
        ]
    assert left < len(stops) if way in HARD else left == 0


def test_on_the_board_the_fence_shows_it(visitor: Visitor, shows: ShowStore) -> None:
    """By htmx the board comes back with the edit outlined, and the same two buttons."""
    form = {"fixture": LILY_4, "u": 2, "address": ON_LILY_3, "revision": 1}
    board = visitor.post("/shows/1/address/move", form, htmx=True)
    assert "moved-frame" in board.text
    assert "Not done yet: it makes 1 new stop." in board.text
    assert 'name="repair"' in board.text
    assert "With the repair: Lily 4 goes to U2 " in board.text
    assert shows.get(1).revision == 1
    visitor.post("/shows/1/address/move", {**form, "seen": "1", "repair": "1"}, htmx=True)
    moved = shows.get(1).show
    assert moved.fixture(CLEAN["Lily 3"].id).patch == CLEAN["Lily 3"].patch
    assert analyse(moved).verdict.stops == 0


def test_a_key_press_is_done_and_told_at_once(visitor: Visitor, shows: ShowStore) -> None:
    """Nudging through others is not held up: the finding and its mend stand beside it at once."""
    form = {"fixture": LILY_4, "u": 2, "by": -1, "revision": 1}
    board = visitor.post("/shows/1/address/nudge", form, htmx=True)
    assert shows.get(1).analysis.verdict.stops == 1
    assert "Lily 3 ends at" in board.text
    assert 'class="btn btn-primary mend"' in board.text


def test_a_number_past_the_end_is_asked_about(visitor: Visitor, shows: ShowStore) -> None:
    """513 in universe 1 may be a slip: nothing is moved, and the message says how to say either."""
    answer = visitor.post(
        "/shows/1/address/move", {"fixture": LILY_4, "u": 1, "address": "513", "revision": 1}
    )
    assert answer.status_code == 422
    assert (
        "513 is past slot 512, the last of U1. Counted on from universe 1 it is U2 001: type 2/1"
        in answer.text
    )
    assert shows.get(1).revision == 1
