"""Planning the cable, distances, stock, batteries, links and pins through their pages."""

from __future__ import annotations

import csv
import html
import re
from dataclasses import replace
from io import BytesIO

import pytest

from fence.core.model.line import Device, Power
from fence.core.model.show import Show
from fence.demo import clean_show
from fence.demo.glasshouse import uncabled_show
from fence.formats.lines_csv import write_lines_csv
from fence.store.shows import ShowStore
from tests.conftest import Visitor
from tests.web.test_lines import step


@pytest.fixture
def bare(shows: ShowStore) -> int:
    """A show with the rig and the distances of the clean one and no line yet."""
    clean = clean_show()
    known = {"ground": clean.ground, "positions": clean.positions, "boxes": clean.boxes}
    show = replace(uncabled_show(), name="Bare", lines=(), **known)  # type: ignore[arg-type]
    return shows.create(show, who="T").id


def plan(visitor: Visitor, shows: ShowStore, show_id: int, **fields: object) -> None:
    """Do what a preview shows."""
    visitor.post(
        f"/shows/{show_id}/lines/plan",
        {"revision": shows.get(show_id).revision, "seen": 1, **fields},
    )


def test_the_cable_is_planned_seen_first_and_undone(
    visitor: Visitor, shows: ShowStore, bare: int
) -> None:
    """The preview says how good it is and draws it; done, all that takes channels hangs; one undo
    takes it back."""
    page = visitor.get(f"/shows/{bare}/lines/plan?what=plan").text
    assert "Proven: no plan has fewer splitters" in html.unescape(page)
    assert page.count('<svg class="line-drawing"') == 4
    assert shows.get(bare).show.lines == ()
    plan(visitor, shows, bare, what="plan")
    show = shows.get(bare).show
    assert len(show.lines) == 4
    assert not [f for f in shows.get(bare).analysis.findings if f.line and f.severity != "note"]
    hung = {stop.fixture for line in show.lines for stop in line.stops if stop.fixture}
    assert hung == {fixture.id for fixture in show.fixtures if any(show.footprints_of(fixture))}
    assert "hangs on a line already" in visitor.get(f"/shows/{bare}/lines/plan?what=plan").text
    tight = visitor.get(f"/shows/{bare}/lines/plan?what=plan&anew=1&loads=12&outputs=2").text
    assert re.search(r"[1-9] splitters?, \d+ m of cable", tight)
    assert visitor.get(f"/shows/{bare}/lines/plan?what=plan&loads=99").status_code == 422
    assert "whole numbers" in visitor.get(f"/shows/{bare}/lines/plan?what=plan&loads=many").text
    visitor.post(f"/shows/{bare}/undo", {"revision": shows.get(bare).revision})
    assert shows.get(bare).show.lines == ()


def test_lengths_follow_from_distances(visitor: Visitor, shows: ShowStore, bare: int) -> None:
    """Typed in words, refused with all that was typed, reckoned for cable runs that have none or
    for all."""
    plan(visitor, shows, bare, what="by-position")
    path = f"/shows/{bare}/lines/ground"
    page = visitor.get(path).text
    assert "Palm House – Fern Gully: 14" in page
    places = [position.name for position in shows.get(bare).show.positions]
    form = {
        "revision": shows.get(bare).revision,
        "place": places,
        "desk-0": "30",
        "spacing-0": "2,5",
        "slack": "0",
    }
    refused = visitor.post(path, {**form, "desk-1": "far", "between": "Rill to Lily Pond 9"})
    assert refused.status_code == 422
    assert "“far” is not a length for the way from the desk to" in refused.text
    assert "Rill to Lily Pond 9" in refused.text
    assert (
        "names no two positions" in visitor.post(path, {**form, "between": "Moon – Rill: 3"}).text
    )
    answer = visitor.post(path, {**form, "between": "Rill to Lily Pond 9\n", "then": "measure"})
    assert "what=measure" in answer.headers["Location"]
    ground = shows.get(bare).show.ground
    assert [(way.one, way.other, way.metres) for way in ground.distances][-1] == (
        "Rill",
        "Lily Pond",
        9,
    )
    assert "changes" in visitor.get(answer.headers["Location"]).text
    plan(visitor, shows, bare, what="measure")
    lengths = [stop.length for stop in shows.get(bare).show.lines[0].stops]
    assert lengths == [30, 3, 3, 3, 0]


def test_lines_go_out_and_come_back_as_csv(visitor: Visitor, shows: ShowStore, bare: int) -> None:
    """Read into a show without lines: seen first, then the same; what is wrong is told and kept as
    typed."""
    text = visitor.get("/shows/1/lines/lines.csv").text
    assert text == write_lines_csv(shows.get(1).show)
    path = f"/shows/{bare}/lines/read"
    revision = shows.get(bare).revision
    visitor.get(path)
    seen = visitor.client.post(
        path,
        data={
            "csrf_token": visitor.token,
            "revision": revision,
            "do": "see",
            "file": (BytesIO(text.encode()), "l.csv"),
        },
    )
    assert "Take these lines" in seen.text
    assert shows.get(bare).show.lines == ()
    visitor.post(path, {"revision": revision, "do": "it", "seen": 1, "text": text})
    assert shows.get(bare).show.lines == shows.get(1).show.lines
    wrong = visitor.post(
        path, {"revision": revision + 1, "do": "see", "text": "line,what,name\nX,fixture,Nobody\n"}
    )
    assert wrong.status_code == 422
    assert "Line 2: No fixture of this show is called “Nobody”" in wrong.text
    assert "X,fixture,Nobody" in wrong.text


def test_the_stock_says_what_each_hop_is_made_of(visitor: Visitor, shows: ShowStore) -> None:
    """Pieces cable run by cable run, joints, what is to rent; without a stock the cable runs as
    they are."""
    page = visitor.get("/shows/1/lines/pull").text
    assert "Made of" in page
    rows = list(csv.DictReader(visitor.get("/shows/1/lines/pull.csv").text.splitlines()))
    for row in rows:
        assert sum(float(piece) for piece in row["pieces"].split(" + ")) >= float(row["metres"])
    assert any(" + " in row["pieces"] for row in rows)
    path = "/shows/1/lines/stock"
    text = "what,count,length\ncable,3,25\ncable,100,8\nterminator,1,\n"
    visitor.post(path, {"revision": shows.get(1).revision, "text": text})
    page = visitor.get("/shows/1/lines/pull").text
    assert re.search(r"5 × terminator <b class=\"caution\">4 to rent", page)
    assert 'class="caution">rent' in page
    wrong = visitor.post(
        path, {"revision": shows.get(1).revision, "text": "count,length\n3,long\n"}
    )
    assert wrong.status_code == 422
    assert "“long” is not a number for length" in wrong.text
    assert "3,long" in wrong.text
    assert visitor.get(path + "/stock.csv").text.splitlines()[1] == "cable,3,25,dmx,5-pin,5-pin,,"
    visitor.post(path, {"revision": shows.get(1).revision, "text": ""})
    assert "With the <a" in visitor.get("/shows/1/lines/pull").text
    assert "Made of" not in visitor.get("/shows/1/lines/pull").text


def test_a_day_says_what_lasts(visitor: Visitor, shows: ShowStore) -> None:
    """The old battery of the bad morning, a longer day for all, fewer chargers; a wrong time keeps
    what was typed."""
    page = visitor.get("/shows/2/lines/day").text
    assert "Flat at 18:00. On charge by 15:23 until doors, or swap at 16:12, 23:24." in page
    assert page.count("Charges only with its main switch on.") == 1
    path = "/shows/1/lines/day"
    day = {
        "set_up": "8",
        "doors": "18:00",
        "end": "2:00",
        "next_set_up": "8:00",
        "reserve": "10",
        "chargers": "2",
    }
    visitor.post(path, {"revision": shows.get(1).revision, **day})
    told = [f for f in shows.get(1).analysis.findings if f.rule.startswith("battery")]
    assert {f.rule for f in told} == {"battery-turnaround"}
    assert len(told) == 3  # two at a time in six hours: three of five are not full again
    show = shows.get(1).show
    (kind,) = {profile.id for profile in show.profiles if profile.battery_hours}
    mine = [f.id for f in show.fixtures if f.profile == kind]
    hours = {f"hours-type-{kind}": "6-7 h", f"hours-{mine[0]}": "9,5"}
    visitor.post(path, {"revision": shows.get(1).revision, **day, **hours})
    kept = shows.get(1).show.day
    assert kept is not None
    assert {held.fixture: held.hours for held in kept.measured} == dict.fromkeys(mine, 6.0) | {
        mine[0]: 9.5
    }
    wrong = visitor.post(path, {"revision": shows.get(1).revision, **day, "doors": "late"})
    assert wrong.status_code == 422
    assert "“late” is not a time of day" in wrong.text
    assert 'value="late"' in wrong.text
    visitor.post(path, {"revision": shows.get(1).revision, "do": "away"})
    assert shows.get(1).show.day is None
    assert "Say when set-up begins" in visitor.get(path).text
    empty = shows.create(Show("Empty"), who="T")
    assert "Nothing runs on a battery" in visitor.get(f"/shows/{empty.id}/lines/day").text


def test_links_by_air_say_their_steps(visitor: Visitor, shows: ShowStore) -> None:
    """Who listens on which channel; a second sender on it is a stop; its mend gives it another
    channel."""
    page = visitor.get("/shows/1/lines/wireless?position=Lily+Pond").text
    assert "Reed 1: link to channel 14; mode 6 channel, start U2 257, as the card says." in page
    assert "by cable" in page
    assert (
        "by cable, without 5 that take none"
        in visitor.get("/shows/1/lines/wireless?position=Rill").text
    )
    assert re.search(r"pieces to carry</th><td class=\"mono\">\d+</td><td class=\"mono\">\d+", page)
    step(
        visitor,
        shows,
        "insert",
        1,
        line=2,
        stop=1,
        device="transmitter",
        where="before",
        label="Air 4",
    )
    sender = next(s for s in shows.get(1).show.line(2).stops if s.device is Device.TRANSMITTER)
    device = {
        "link": "14",
        "outputs": "4",
        "power": "battery pack",
        "hours": "6,5",
        "sign": "blue",
        "label": "Air 4",
    }
    seen = step(visitor, shows, "device", 1, line=2, stop=sender.id, **device)
    assert "receivers hear either" in seen  # a new stop is seen first
    step(visitor, shows, "device", 1, line=2, stop=sender.id, seen=1, **device)
    held = next(s for s in shows.get(1).show.line(2).stops if s.id == sender.id)
    assert (held.power, held.hours, held.sign, held.outputs) == (Power.PACK, 6.5, "blue", 4)
    assert "Air 4 lasts 6.5 of 14.5 hours" in " ".join(
        f.message for f in shows.get(1).analysis.findings
    )
    page = visitor.get(f"/shows/1/lines?line=5&stop={shows.get(1).show.line(5).stops[0].id}").text
    key = re.search(
        r'name="finding" value="([^"]+)"><input type="hidden" name="mend" value="(Link [^"]+)"',
        page,
    )
    assert key
    step(visitor, shows, "mend", 1, line=5, finding=key[1], mend=html.unescape(key[2]))
    assert not [f for f in shows.get(1).analysis.findings if f.rule == "wireless-channel"]
    assert "is not a number of hours: type 6, 7.5 or 6-7 h" in step(
        visitor, shows, "device", 1, line=2, stop=sender.id, hours="long"
    )


def test_the_card_says_whom_it_listens_to(visitor: Visitor, shows: ShowStore) -> None:
    """A fixture on the air names its sender and channel; one on a cable says nothing of it."""
    reed = next(f for f in shows.get(1).show.fixtures if f.label == "Reed 1")
    assert (
        "Wireless from Air 3 on link channel 14, U2." in visitor.get(f"/shows/1/set/{reed.id}").text
    )
    assert "Wireless" not in visitor.get("/shows/1/set/1").text


def test_a_post_is_moved_within_a_line_and_to_another(visitor: Visitor, shows: ShowStore) -> None:
    """Dropped behind another post; to a line of another universe it is seen first."""
    line = shows.get(1).show.line(3)
    first, last = line.stops[0], [stop for stop in line.stops if not stop.terminates][-1]
    step(visitor, shows, "move", 1, line=3, stop=first.id, to=last.id)
    order = [stop.fixture for stop in shows.get(1).show.line(3).stops if stop.fixture]
    assert order[-1] == first.fixture
    assert "planned on U3" in step(
        visitor, shows, "move", 1, line=3, stop=first.id, to_line=4, to="1"
    )
    step(visitor, shows, "move", 1, line=3, stop=first.id, to_line=4, to="1", seen="1")
    assert first.fixture in [stop.fixture for stop in shows.get(1).show.line(4).stops]
    assert first.fixture not in [stop.fixture for stop in shows.get(1).show.line(3).stops]
    reed = shows.get(1).show.line(5).stops[2]
    step(visitor, shows, "move", 1, line=5, stop=reed.id, to_line=2, to="1", seen="1")
    moved = next(stop for stop in shows.get(1).show.line(2).stops if stop.fixture == reed.fixture)
    assert (str(moved.cable), moved.plugs, moved.link) == ("dmx", None, "")  # nobody sends there


def test_pins_are_drawn(visitor: Visitor) -> None:
    """The wires of an adapter follow from the pins of both plugs; nonsense shows the usual ones."""
    page = visitor.get("/shows/1/lines/pins?one=rj45&other=5-pin").text
    assert re.search(
        r'<td class="mono">7 \+ 8</td><td>common \(shield\)</td><td class="mono">1</td>', page
    )
    assert re.search(r'<td class="mono">2</td><td>data −</td><td class="mono">2</td>', page)
    assert "120 Ω between pins 2 and 3" in page
    assert "brown, red, brown" in page
    assert visitor.get("/shows/1/lines/pins?one=moon").status_code == 200
