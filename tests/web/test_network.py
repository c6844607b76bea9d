"""The Network step through its pages: boxes, ports, plans, cards, what was found; and what follows
elsewhere."""

from __future__ import annotations

import html
import re
import threading
from collections.abc import Callable, Iterator
from dataclasses import replace

import pytest

from fence.core import edits
from fence.core.model.box import Box, Given, Merging, Numbering, Protocol, Use, Way
from fence.core.model.line import Source
from fence.core.network.card import Stand, stand_of
from fence.demo import clean_show, demo_show
from fence.demo.glasshouse import cabled, uncabled_show
from fence.standins.boxes import BoxesStandIn, read_fault
from fence.store.shows import ShowStore
from fence.work.rdm_jobs import Work
from tests.conftest import Visitor


@pytest.fixture
def bare(shows: ShowStore) -> int:
    """A show with its rig and its lines, and nothing of the network."""
    return shows.create(replace(cabled(uncabled_show()), name="Bare"), who="T").id


def step(visitor: Visitor, shows: ShowStore, show_id: int, what: str, **fields: object) -> str:
    """Do a step at a box and give the page that follows."""
    sent = visitor.post(
        f"/shows/{show_id}/network/step/{what}",
        {"revision": shows.get(show_id).revision, "seen": 1, **fields},
    )
    assert sent.status_code == 302, sent.text
    return html.unescape(visitor.get(sent.headers["Location"]).text)


def boxes(shows: ShowStore, show_id: int) -> tuple[Box, ...]:
    return shows.get(show_id).show.boxes


def stops(shows: ShowStore, show_id: int) -> list[str]:
    return [
        f.rule
        for f in shows.get(show_id).analysis.findings
        if f.box is not None and f.severity == "stop"
    ]


def test_a_network_is_built_planned_and_typed(
    visitor: Visitor, shows: ShowStore, bare: int
) -> None:
    """Desk and boxes with the next free addresses; ports planned where lines start; cards typed;
    one undo each."""
    assert "First the desk" in visitor.get(f"/shows/{bare}/network").text
    step(visitor, shows, bare, "add", kind="desk", name="Shed", sends="8", ip="10.7.0.2")
    page = step(visitor, shows, bare, "add", name="North", ports="2", fill="1")
    assert "2 new stops" in page
    page = step(visitor, shows, bare, "add", name="South", ports="4")
    assert [(b.name, b.ip, [p.universe for p in b.ports]) for b in boxes(shows, bare)] == [
        ("Shed", "10.7.0.2", []),
        ("North", "10.7.0.3", [1, 2]),
        ("South", "10.7.0.4", [None] * 4),
    ]
    assert stops(shows, bare) == ["port-universe", "port-universe"]
    seen = html.unescape(visitor.get(f"/shows/{bare}/network/ports").text)
    assert "2 ports change, 2 nodes in use. Proven: no plan changes or uses less." in seen
    assert stops(shows, bare) == ["port-universe", "port-universe"]
    visitor.post(f"/shows/{bare}/network/ports", {"revision": shows.get(bare).revision, "seen": 1})
    assert stops(shows, bare) == []
    assert [line.source for line in shows.get(bare).show.lines] == [
        Source(2, 1),
        Source(2, 2),
        Source(3, 1),
        Source(3, 2),
        Source(2, 2),
    ]
    assert "where lines start at one" not in seen
    card = f"/shows/{bare}/network/cards/3"
    assert 'class="mono to-type">3<' in visitor.get(card).text
    done = visitor.post(
        f"{card}/mark", {"revision": shows.get(bare).revision, "what": "typed", "next": "2"}
    )
    assert done.headers["Location"].endswith("/network/cards/2")
    assert stand_of(boxes(shows, bare)[2]) is Stand.TYPED
    visitor.post(f"/shows/{bare}/undo", {"revision": shows.get(bare).revision})
    assert stand_of(boxes(shows, bare)[2]) is Stand.TO_TYPE


def test_all_that_is_said_of_a_box_is_kept(visitor: Visitor, shows: ShowStore) -> None:
    """Every field of its form; ports more and fewer; a port that is in use stays until it is
    spare."""
    fields = {
        "box": 3,
        "name": "rill",
        "model": "S8",
        "ip": "10.0.0.9",
        "prefix": "255.255.0.0",
        "gives": "server",
        "protocol": "artnet",
        "way": "unicast",
        "counts_from": "0",
        "ports": "9",
        "numbering": "range",
        "merging": "latest",
        "priority": "90",
        "speed": "10,5",
        "over_air": "1",
        "both": "1",
    }
    step(visitor, shows, 1, "save", **fields)
    box = boxes(shows, 1)[2]
    assert (box.name, box.model, box.ip, box.prefix, box.gives) == (
        "rill",
        "S8",
        "10.0.0.9",
        16,
        Given.SERVER,
    )
    assert (box.protocol, box.way, box.counts_from, box.numbering) == (
        Protocol.ARTNET,
        Way.UNICAST,
        0,
        Numbering.RANGE,
    )
    assert (box.merging, box.priority, box.speed, box.over_air, box.both) == (
        Merging.LATEST,
        90,
        10.5,
        True,
        True,
    )
    assert len(box.ports) == 9
    step(visitor, shows, 1, "save", **{**fields, "ports": "1"})
    assert len(boxes(shows, 1)[2].ports) == 1
    refused = visitor.post(
        "/shows/1/network/step/save",
        {**fields, "ports": "0", "revision": shows.get(1).revision, "seen": 1},
    )
    assert refused.status_code == 422
    assert "Port 1 of rill gives U2: make it spare before it goes." in html.unescape(refused.text)


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"ip": "10.0.0"}, "not a network address"),
        ({"prefix": "255.0.255.0"}, "not a mask"),
        ({"prefix": "31"}, "31 is not a network prefix"),
        ({"name": "palm dock"}, "There is a node “palm dock” already"),
        ({"name": ""}, "name of a node"),
        ({"ports": "many"}, "not a valid number of ports"),
        ({"priority": "900"}, "priority"),
        ({"speed": "fast"}, "not a valid speed of a wire"),
        ({"only": "1-x"}, "not a list of universes"),
        ({"sends": "-3"}, "Use whole numbers"),
    ],
)
def test_what_no_box_can_be_is_said(
    visitor: Visitor, shows: ShowStore, fields: dict[str, str], words: str
) -> None:
    """With what is accepted; nothing is changed."""
    before = shows.get(1)
    sent = visitor.post(
        "/shows/1/network/step/save",
        {"box": 3, "name": "rill dock", "revision": before.revision, **fields},
    )
    assert sent.status_code == 422
    assert words in html.unescape(sent.text)
    assert shows.get(1).revision == before.revision


def test_a_port_a_reading_and_the_mend(visitor: Visitor, shows: ShowStore) -> None:
    """A wrong number is found by reading it back; the mend has it typed; a port is turned off and
    round."""
    page = step(visitor, shows, 1, "port", box=2, port=3, universe=3, use="out", says="3")
    assert "gives out U4: Canopy walk stays dark" in page
    key = re.search(r'name="finding" value="(numbering[^"]+)"', page)
    assert key
    unknown = {
        "box": 2,
        "port": 3,
        "finding": key[1],
        "mend": "Have 9 typed",
        "revision": shows.get(1).revision,
    }
    assert visitor.post("/shows/1/network/step/mend", unknown).status_code == 422
    page = step(
        visitor,
        shows,
        1,
        "mend",
        box=2,
        port=3,
        finding=key[1],
        mend="Have 2 typed at palm dock port 3",
    )
    assert boxes(shows, 1)[1].ports[2].says is None
    step(visitor, shows, 1, "port", box=3, port=2, universe="", use="off", says="")
    assert boxes(shows, 1)[2].ports[1].use is Use.OFF
    page = step(visitor, shows, 1, "port", box=3, port=3, universe=4, use="out", line=4)
    assert shows.get(1).show.line(4).source == Source(3, 3)
    step(visitor, shows, 1, "loose", line=4)
    assert shows.get(1).show.line(4).source is None
    page = step(visitor, shows, 1, "remove", box=3)
    assert shows.get(1).show.line(5).source is None
    assert len(boxes(shows, 1)) == 2
    assert "U2" in page
    assert visitor.get("/shows/1/network?box=99&port=4").status_code == 200


def test_a_stop_is_seen_first(visitor: Visitor, shows: ShowStore) -> None:
    """A port made spare leaves a universe dark: the step waits until its person has seen that."""
    fields = {"box": 2, "port": 4, "universe": "", "use": "out", "revision": shows.get(1).revision}
    sent = visitor.post("/shows/1/network/step/port", fields)
    assert "U4 Gatehouse has no port: its 9 fixtures stay dark." in html.unescape(sent.text)
    assert boxes(shows, 1)[1].ports[3].universe == 4


def test_addresses_are_planned_seen_first(visitor: Visitor, shows: ShowStore) -> None:
    """What is in another network moves; ranges are kept; what is no network or range is said and
    nothing lost."""
    page = html.unescape(visitor.get("/shows/2/network/addresses").text)
    assert "192.168.40.12/24" in page
    assert "was in another network" in page
    visitor.post(
        "/shows/2/network/addresses",
        {"revision": shows.get(2).revision, "network": "192.168.40.0/24"},
    )
    assert boxes(shows, 2)[2].ip == "192.168.40.12"
    assert visitor.get("/shows/2/network/addresses?network=10.0.0.0").status_code == 422
    kept = {
        "revision": shows.get(2).revision,
        "reserved": "192.168.40.11 - 192.168.40.12 server\n10.0.0.9",
        "shared": "1",
    }
    visitor.post("/shows/2/network/addresses/kept", kept)
    net = shows.get(2).show.net
    assert [(r.first, r.last, r.why) for r in net.reserved] == [
        ("192.168.40.11", "192.168.40.12", "server"),
        ("10.0.0.9", "10.0.0.9", ""),
    ]
    assert net.shared
    assert "192.168.40.13/24" in visitor.get("/shows/2/network/addresses").text
    wrong = {"revision": shows.get(2).revision, "reserved": "10.0.0.1 to nowhere"}
    answer = visitor.post("/shows/2/network/addresses/kept", wrong)
    assert answer.status_code == 422
    assert "10.0.0.1 to nowhere" in answer.text
    assert "is not a range of addresses" in answer.text


def test_a_new_universe_asks_for_a_port(visitor: Visitor, shows: ShowStore) -> None:
    """Fixtures on a universe that no port gives are seen first; with the repair they get a spare
    port."""
    form = {
        "kind": "sedge-nightbloom | 1 channel",
        "quantity": "1",
        "label": "Late 1",
        "universe": "5",
        "start": "1",
    }
    sent = visitor.post("/shows/1/rig/add", {**form, "revision": shows.get(1).revision})
    assert "has no port: its fixture stays dark" in sent.text
    assert len(shows.get(1).show.fixtures) == 64
    visitor.post(
        "/shows/1/rig/add", {**form, "revision": shows.get(1).revision, "seen": 1, "repair": 1}
    )
    assert [port.universe for port in boxes(shows, 1)[2].ports][:3] == [2, 5, None]
    assert stops(shows, 1) == []


def test_the_line_says_where_it_starts(visitor: Visitor, shows: ShowStore) -> None:
    """Chosen on the Lines page, and read there."""
    path = "/shows/1/lines/step/start"
    visitor.post(path, {"revision": shows.get(1).revision, "line": 1, "start": "3:4", "seen": 1})
    assert shows.get(1).show.line(1).source == Source(3, 4)
    assert "rill dock port 4" in visitor.get("/shows/1/lines?line=1").text
    assert "Line A carries U1; rill dock port 4, where it starts, is spare." in html.unescape(
        visitor.get("/shows/1/lines?line=1").text
    )
    visitor.post(path, {"revision": shows.get(1).revision, "line": 1, "start": ""})
    assert shows.get(1).show.line(1).source is None
    assert (
        visitor.post(
            path, {"revision": shows.get(1).revision, "line": 1, "start": "x:y"}
        ).status_code
        == 422
    )


def test_what_the_box_says_is_read_back_on_its_card(visitor: Visitor, shows: ShowStore) -> None:
    """Number by number; one that is none is named and all that was typed stays."""
    path = "/shows/1/network/cards/2/mark"
    typed = {"what": "says", "says-1": "0", "says-2": "one", "says-3": "2", "says-4": "4"}
    answer = visitor.post(path, {**typed, "revision": shows.get(1).revision})
    assert answer.status_code == 422
    assert "“one” at port 2 is not a number" in html.unescape(answer.text)
    assert 'name="says-2" value="one"' in answer.text
    visitor.post(path, {**typed, "says-2": "", "revision": shows.get(1).revision})
    assert [port.says for port in boxes(shows, 1)[1].ports] == [0, None, 2, 4]
    assert "it says 4, so it gives U5" in visitor.get("/shows/1/network/cards").text


@pytest.fixture
def answering(app: object) -> Iterator[None]:
    """The boxes of the demo with problems, answering on loopback; one silent."""
    app.config["LOOK_SECONDS"] = 0.8  # type: ignore[attr-defined]
    standin = BoxesStandIn(demo_show(), "127.0.0.33", [read_fault(demo_show(), "silent=rill dock")])
    ready = threading.Event()
    thread = threading.Thread(target=standin.serve, args=(ready,), daemon=True)
    thread.start()
    assert ready.wait(10)
    yield
    standin.stop()
    thread.join(10)
    assert not thread.is_alive()


def test_boxes_are_found_compared_and_taken_over(
    visitor: Visitor, shows: ShowStore, answering: None, over: Callable[[int], Work]
) -> None:
    """Nothing is asked before the button; what differs is told by port; taken over it is a finding
    with its mend."""
    visitor.get("/shows/1/network/look")
    sent = visitor.post(
        "/shows/1/network/look", {"bind": "127.0.0.1", "to": "127.0.0.33", "sources": "1"}
    )
    assert sent.headers["Location"] == "/shows/1/network/look"
    there = over(1).to
    assert visitor.get("/shows/1/rdm/progress").headers["HX-Redirect"] == there
    page = html.unescape(visitor.get(there).text)
    assert "Port 4 says 4, planned is 3: it gives U5 in place of U4." in page
    assert "Did not answer." in page
    take = {"place": 0, "what": "note", "revision": shows.get(1).revision}
    seen = html.unescape(visitor.post(there, take).text)
    assert "palm dock: " in seen
    assert boxes(shows, 1) == clean_show().boxes
    visitor.post(there, {**take, "seen": 1})
    assert [port.says for port in boxes(shows, 1)[1].ports] == [0, 1, 2, 4]
    assert stops(shows, 1) == ["numbering"]
    again = visitor.get(there).text
    assert "Port 4 says 4" in html.unescape(again)


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"bind": "10.99.98.97"}, "not an address of this machine"),
        ({"bind": "x"}, "not a network address"),
        ({"bind": "127.0.0.1", "to": "nobody"}, "not a network address"),
        ({"bind": "127.0.0.1", "to": "10.0.0.1 " * 251}, "Use up to 250"),
        ({"bind": "127.0.0.1", "to": "8.8.8.8"}, "is outside"),
        ({"bind": "127.0.0.1", "to": "255.255.255.255"}, "everybody on every network"),
        ({"bind": "127.0.0.1", "to": "239.255.0.1"}, "multicast group"),
    ],
)
def test_where_it_cannot_look(visitor: Visitor, fields: dict[str, str], words: str) -> None:
    """It says why, and what was typed stays."""
    answer = visitor.post("/shows/1/network/look", fields)
    assert answer.status_code == 422
    assert words in html.unescape(answer.text)
    assert visitor.get("/shows/1/network/look/nothing").status_code == 404


def test_a_box_that_never_answers_is_added_by_its_address(
    visitor: Visitor, shows: ShowStore
) -> None:
    """By hand, under a name of its own."""
    visitor.post(
        "/shows/1/network/look/by-hand", {"revision": shows.get(1).revision, "ip": "192.168.40.50"}
    )
    assert (boxes(shows, 1)[-1].ip, boxes(shows, 1)[-1].name) == (
        "192.168.40.50",
        "Node at 192.168.40.50",
    )


def test_the_converter_stands_alone_and_beside_a_show(visitor: Visitor) -> None:
    """Any counting, with the boxes of the show; what is none is said."""
    alone = visitor.get("/numbers?typed=300").text
    assert "1.2.11" in alone
    beside = visitor.get("/shows/1/numbers?typed=0.0.3&counting=artnet&other=192.168.4.12").text
    assert "U4 Gatehouse" in beside
    assert "palm dock says" in beside
    assert "is in another network" in beside
    assert "Use 0.0.0 to 127.15.15" in visitor.get("/numbers?typed=0.16.0&counting=artnet").text
    assert visitor.get("/numbers?network=nonsense&other=x").status_code == 200


def test_many_boxes_are_drawn_a_few_at_a_time(visitor: Visitor, shows: ShowStore) -> None:
    """Those with trouble first; the rest by name; names of any length find room."""
    show = clean_show()
    for number in range(30):
        show = edits.add_box(
            show, f"Ein sehr langer Name für eine Kiste im Keller {number}", ports=8
        )
    last = replace(show.boxes[-1], ip="192.168.40.11")
    many = replace(show, name="Many", boxes=(*show.boxes[:-1], last))
    saved = shows.create(many, who="T")
    page = visitor.get(f"/shows/{saved.id}/network").text
    assert page.count('class="net-panel') == 13
    assert 'id="box-33"' in page
    assert page.count('class="pill"') == 20
