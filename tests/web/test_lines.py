"""The Lines step through its pages: planned with few hands, drawn, mended, broken, brought."""

from __future__ import annotations

import csv
import re
from dataclasses import replace

import pytest
from flask import Flask

from fence.core.checks import analyse
from fence.core.model.line import Device, Line, Stop
from fence.core.model.show import Show
from fence.core.model.wiring import wiring_of
from fence.demo.glasshouse import uncabled_show
from fence.store.shows import ShowStore
from fence.web.lines.outcome import LISTED, STOPS_DRAWN, lines_outcome
from tests.conftest import Visitor

SHOW = 3


def step(
    visitor: Visitor, shows: ShowStore, what: str, show_id: int = SHOW, **fields: object
) -> str:
    """Do a step on a line and give the page that follows."""
    form = {"revision": shows.get(show_id).revision, **fields}
    answer = visitor.post(f"/shows/{show_id}/lines/step/{what}", form)
    return (
        visitor.get(answer.headers["Location"]).text
        if "Location" in answer.headers
        else answer.text
    )


def test_lines_are_planned_with_one_step(visitor: Visitor, shows: ShowStore) -> None:
    """A line for each position and universe, all terminated, seen first; one undo takes them
    back."""
    made = shows.create(replace(uncabled_show(), name="Bare"), who="T").id
    assert "Say how the cable runs" in visitor.get(f"/shows/{made}/lines").text
    seen = visitor.get(f"/shows/{made}/lines/plan?what=by-position").text
    assert "Plan them like this" in seen
    visitor.post(f"/shows/{made}/lines/plan", {"revision": 1, "what": "by-position", "seen": 1})
    page = visitor.get(f"/shows/{made}/lines").text
    lines = shows.get(made).show.lines
    assert len(lines) == 7
    assert f"{len(lines)} lines" in page
    for wiring in map(wiring_of, lines):
        assert all(end.terminates for section in wiring.sections for end in wiring.ends(section))
    assert len(re.findall(r'id="stop-', page)) == sum(len(line.stops) for line in lines)
    visitor.post(f"/shows/{made}/undo", {"revision": shows.get(made).revision})
    assert shows.get(made).show.lines == ()
    visitor.post(f"/shows/{made}/lines/plan", {"revision": 3, "what": "by-universe", "seen": 1})
    assert visitor.get(f"/shows/{made}/lines").text.count("<h2><a") == 4


def test_a_post_tells_what_hangs_behind_it(visitor: Visitor, shows: ShowStore) -> None:
    """The cable run, what goes dark, what is wrong there with its mend, which is taken with a
    button."""
    page = visitor.get(f"/shows/{SHOW}/lines?line=1&stop=11").text
    assert "10 fixtures go dark or run on their own" in page
    assert "45 m from the source" in page
    orchid = next(s for s in shows.get(SHOW).show.line(1).stops if s.fixture == 19)
    page = visitor.get(f"/shows/{SHOW}/lines?line=1&stop={orchid.id}").text
    assert "Line A ends open behind Orchid 4." in page
    assert "1 fixture goes dark or runs on its own" in page
    key = re.search(r'name="finding" value="([^"]+)"', page)
    assert key
    after = step(
        visitor,
        shows,
        "mend",
        line=1,
        stop=orchid.id,
        finding=key[1],
        mend="Terminate behind Orchid 4",
    )
    assert "ends open" not in after
    assert shows.get(SHOW).show.line(1).stops[-1].after == orchid.id
    stale = step(visitor, shows, "mend", line=1, finding=key[1], mend="Terminate behind Orchid 4")
    assert "not there any more" in stale


def test_hops_are_typed_along_the_row(visitor: Visitor, shows: ShowStore) -> None:
    """One number for all, or one for each; a wrong one is told, and nothing is changed."""
    step(visitor, shows, "lengths", line=2, lengths="30; 4, 4,-")
    assert [stop.length for stop in shows.get(SHOW).show.line(2).stops][:5] == [30, 4, 4, None, 5]
    step(visitor, shows, "lengths", line=2, lengths="8 m")
    assert {s.length for s in shows.get(SHOW).show.line(2).stops if not s.terminates} == {8}
    assert "is not a length" in step(visitor, shows, "lengths", line=2, lengths="long")
    assert "has 7 cable runs; 8 lengths" in step(
        visitor, shows, "lengths", line=2, lengths="1,2,3,4,5,6,7,8"
    )
    assert "Use 0 to" in step(visitor, shows, "run", line=2, stop=1, length="1e9", cable="dmx")
    step(
        visitor,
        shows,
        "run",
        line=2,
        stop=1,
        length="12.5",
        cable="network",
        near="rj45",
        far="5-pin",
    )
    run = shows.get(SHOW).show.line(2).stops[0]
    assert (run.length, str(run.cable), run.plugs) == (12.5, "network", ("rj45", "5-pin"))


def test_stops_are_put_in_moved_and_taken_off(visitor: Visitor, shows: ShowStore) -> None:
    """A splitter before a fixture, a fixture one place along, one off again, others hung on by name
    or number."""
    step(
        visitor,
        shows,
        "insert",
        line=2,
        stop=4,
        device="splitter",
        where="before",
        outputs="4",
        label="Fork 9",
    )
    wiring = wiring_of(shows.get(SHOW).show.line(2))
    assert wiring.by_id[9].label == "Fork 9"
    assert (wiring.by_id[9].after, wiring.by_id[4].after) == (3, 9)
    step(visitor, shows, "later", line=2, stop=1)
    assert [s.fixture for s in shows.get(SHOW).show.line(2).stops][:2] == [48, 47]
    assert "in the way" in step(visitor, shows, "later", line=2, stop=3)
    step(visitor, shows, "off", line=2, stop=1)
    assert 48 not in {s.fixture for s in shows.get(SHOW).show.line(2).stops}
    page = step(visitor, shows, "chain", line=2, typed="Canopy 2, 41")
    assert "planned on U2, and Line B carries U3" in page  # a new stop is seen first
    assert 48 not in {s.fixture for s in shows.get(SHOW).show.line(2).stops}
    step(visitor, shows, "chain", line=2, typed="canopy 2")
    held = shows.get(SHOW).show.line(2)
    assert held.stops[-1].terminates
    assert wiring_of(held).by_id[held.stops[-1].after or 0].fixture == 48
    assert "No fixture is called" in step(visitor, shows, "chain", line=2, typed="Nobody")


def test_lines_are_named_joined_left_open_and_removed(visitor: Visitor, shows: ShowStore) -> None:
    """Names are told apart; the reason for an open end stands on the page."""
    assert "already" in step(visitor, shows, "name", line=2, name="Line A", universe="3")
    step(visitor, shows, "name", line=2, name="Walk", universe="3")
    assert "no open end" in step(visitor, shows, "open", line=1, stop=1, reason="fails on 120 ohm")
    held = shows.get(SHOW).show.line(1)
    end = next(stop for stop in held.stops if stop.terminates)
    step(visitor, shows, "off", line=1, stop=end.id)
    assert "Left so: fails on 120 ohm" in step(
        visitor, shows, "open", line=1, stop=end.after, reason="fails on 120 ohm"
    )
    step(visitor, shows, "terminate", line=1, stop=end.after)
    assert not any(stop.open_end for stop in shows.get(SHOW).show.line(1).stops)
    step(visitor, shows, "join", line=2, other=3, seen="1")
    assert [line.name for line in shows.get(SHOW).show.lines] == ["Line A", "Walk", "Air 3"]
    step(visitor, shows, "remove", line=2)
    assert "That line is no longer" in step(visitor, shows, "remove", line=2)
    page = step(visitor, shows, "add", name="Spare", universe="2")
    assert "Nothing hangs on it yet" in page


def test_what_to_bring_is_a_page_and_a_file(visitor: Visitor, shows: ShowStore) -> None:
    """Cables by length, pieces, every cable run with its mark; a name that a spreadsheet would run
    is only text there."""
    page = visitor.get(f"/shows/{SHOW}/lines/pull").text
    assert "1 × splitter, 8 outputs" in page
    assert "3 × terminator" in page
    step(visitor, shows, "name", line=2, name="=1+1", universe="3")
    rows = list(csv.DictReader(visitor.get(f"/shows/{SHOW}/lines/pull.csv").text.splitlines()))
    assert rows[0] == {
        "run": "A1",
        "line": "Line A",
        "from": "source",
        "to": "Palm 1",
        "cable": "dmx",
        "plugs": "5-pin",
        "metres": "24",
        "pieces": "",
        "rent": "",
    }
    assert {row["line"] for row in rows} == {"Line A", "'=1+1", "Line C", "Air 3"}


def test_a_finding_of_a_line_leads_to_its_post(visitor: Visitor, shows: ShowStore) -> None:
    """From the panel of findings to the stop that it is about, and fence check names the line."""
    panel = visitor.get(f"/shows/{SHOW}/findings?q=ends+open").text
    link = re.search(r'href="([^"]*lines\?[^"]+)"', panel)
    assert link
    assert "If this plug comes out" in visitor.get(link[1].replace("&amp;", "&")).text


def test_an_empty_show_begins_with_the_rig(visitor: Visitor, shows: ShowStore) -> None:
    """Without fixtures the page says the first step; what is asked for and is not there is left
    out."""
    saved = shows.create(Show("Bare"), who="T")
    assert (
        "Lines begin when the rig has some"
        in visitor.get(f"/shows/{saved.id}/lines?line=9&stop=9").text
    )
    assert "plan the lines first" in visitor.get(f"/shows/{saved.id}/lines/pull").text
    assert visitor.post(f"/shows/{saved.id}/lines/step/nothing", {}).status_code == 422


def chained(lengths: list[int]) -> tuple[Line, ...]:
    """Lines with so many adapters each."""
    return tuple(
        Line(
            number,
            f"Line {number}",
            1,
            stops=tuple(
                Stop(at, at - 1 or None, device=Device.ADAPTER, label=f"Adapter {at}")
                for at in range(1, length + 1)
            ),
        )
        for number, length in enumerate(lengths, 1)
    )


@pytest.mark.parametrize(
    ("lengths", "drawn"),
    [
        ([40, 40, 40], 3),
        ([40, 40, 41], 2),
        ([121, 1], 1),
        ([1] * 12, 12),
        ([1] * 13, 12),
        ([0, 5], 1),
    ],
)
def test_pictures_end_where_there_are_enough(app: Flask, lengths: list[int], drawn: int) -> None:
    """The first line is always drawn; how many are not is told."""
    before = Show("Many")
    after = before.with_lines(chained(lengths))
    with app.test_request_context():
        seen = lines_outcome(before, after, analyse(before))
    assert (STOPS_DRAWN, len(seen.drawn)) == (120, drawn)
    assert len(seen.drawn) + seen.undrawn == sum(length > 0 for length in lengths)


@pytest.mark.parametrize("more", [0, 1])
def test_the_list_of_lines_begins_with_what_changes(app: Flask, more: int) -> None:
    """Of very many lines, too: a line that only goes is a change, and can be made."""
    before = Show("Many", lines=chained([0] * (LISTED + more)))
    after = before.with_lines(before.lines[:-1])
    with app.test_request_context():
        seen = lines_outcome(before, after, analyse(before))
    assert (len(seen.lines), seen.unlisted) == (LISTED, more)
    assert seen.lines[0].what == "goes"
    assert seen.changes
