"""The step Prove on its pages: nothing is sent by looking, answers are kept, and only where it was
confirmed."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from html import unescape
from re import findall
from threading import Event
from unittest.mock import patch

import pytest
from flask import Flask
from hypothesis import given
from hypothesis import strategies as st

from fence.core import edits
from fence.core.model.box import Protocol
from fence.core.model.box import Way as Feeding
from fence.core.model.desk import TellTale
from fence.core.model.errors import EditError, FenceError
from fence.core.simulation.bringing import Look, levels_for
from fence.store.errors import StorageError
from fence.store.shows import ShowStore
from fence.store.ways import MOST_WAYS, ConfirmedWay, Ways
from fence.web.prove import faders, tester
from fence.web.prove.page import frames_for, order, question, with_tell_tale
from fence.web.prove.sending import real_ways
from fence.wire.output import Output, Wanted, Way
from fence.wire.targets import Reach
from fence.work.listening import MOST_LISTENERS
from fence.work.practice_rigs import PracticeRigs
from fence.work.sender import Sender, Sending
from tests.conftest import Visitor, until


class Heard(Sender):
    """A sender that only notes what it is told."""

    def __init__(self) -> None:
        self.told: list[tuple[str, tuple[Way, ...], dict[int, bytes]]] = []
        self.levels = {}

    now = None  # type: ignore[assignment]

    touched = 0

    def touch(self) -> None:
        self.touched += 1

    def send(  # type: ignore[no-untyped-def]
        self, show_id, where, ways, levels, eased=None, *, brought=None, still=None, told=dict
    ) -> None:
        if not ways:
            raise FenceError("There is nowhere to send to")
        self.told.append((where, tuple(ways), dict(told(levels))))
        self.levels = dict(levels)
        self.now = Sending(show_id, where, (), 0.0, "", (), brought)  # type: ignore[assignment]

    ended = ""

    def out(self) -> bool:
        self.told.append(("out", (), {}))
        self.levels = {}
        self.now = None  # type: ignore[assignment]
        return True


@pytest.fixture
def heard(app: Flask) -> Iterator[Heard]:
    """What would go out; no process is started."""
    made = Heard()
    app.extensions["fence_sender"] = made
    yield made
    rigs: PracticeRigs = app.extensions["fence_rigs"]
    rigs.end()


@pytest.fixture
def ways(shows: ShowStore) -> Ways:
    """The confirmed addresses."""
    return Ways(shows.engine, shows.clock)


def test_looking_sends_nothing(visitor: Visitor, heard: Heard) -> None:
    """Every page of the step, opened: nothing goes out."""
    for path in (
        "",
        "/seen?fixture=5",
        "/compare",
        "/faders?fixture=5",
        "/tester?u=1&slot=512",
        "?at=Fern+Gully",
        "?u=2",
    ):
        assert visitor.get(f"/shows/3/prove{path}").status_code == 200
    assert heard.told == []


def test_any_open_page_keeps_it_going(visitor: Visitor, heard: Heard) -> None:
    """While something is sent every page has the banner, which asks again by itself; nothing is
    sent, no banner."""
    assert 'id="sending"' not in visitor.get("/shows/3/rig").text
    visitor.post("/shows/3/prove/bring", {"fixture": 5})
    for path in ("/", "/shows/3/rig", "/shows/3/prove/faders", "/shows/2/log"):
        page = visitor.get(path).text
        assert 'id="all-out"' in page
        assert 'hx-get="/sending" hx-trigger="every' in page
    before = heard.touched
    assert "All out" in visitor.get("/sending").text
    assert heard.touched == before + 1
    visitor.post("/out", {})
    assert "All out" not in visitor.get("/sending").text


def test_nothing_goes_where_nobody_confirmed(
    visitor: Visitor, heard: Heard, shows: ShowStore, ways: Ways
) -> None:
    """Aimed at the rig with no address: refused. Confirmed with the tick: there, and only there,
    with each box’s own number; taken away: refused again."""
    visitor.post("/shows/2/prove/aim", {"aim": "out"})
    heard.told.clear()
    refused = visitor.post("/shows/2/prove/bring", {"fixture": 1})
    assert refused.status_code == 422
    assert "nowhere to send to" in refused.text
    assert heard.told == []
    box = next(
        box
        for box in shows.get(2).show.boxes
        if box.ip and any(port.universe for port in box.ports)
    )
    fields = {"to": box.ip, "protocol": "artnet"}
    assert visitor.post("/shows/2/prove/ways", fields).status_code == 422
    assert ways.of(2) == []
    assert visitor.post("/shows/2/prove/ways", {**fields, "sure": "1"}).status_code == 302
    assert [one.to for one in ways.of(2)] == [box.ip]
    assert "Confirmed for output" in shows.history(2)[0].words
    heard.told.clear()
    visitor.post("/shows/2/prove/bring", {"fixture": 1})
    _, there, _ = heard.told[-1]
    assert {way.to for way in there} == {box.ip}
    given = {port.universe for port in box.ports if port.universe}
    assert {way.universe for way in there} <= given
    assert all(way.number == way.universe - 1 + box.counts_from for way in there)
    visitor.post("/shows/2/prove/ways", {**fields, "away": "1"})
    assert ways.of(2) == []


@pytest.mark.parametrize("to", ["", "somewhere", "1.2.3", "multicast"])
def test_what_is_no_address_is_refused(ways: Ways, to: str) -> None:
    """It says what is accepted; groups are sACN's only; so many and no more."""
    with pytest.raises(EditError):
        ways.confirm(1, Protocol.ARTNET, to, who="A")
    assert ways.confirm(1, Protocol.SACN, "Multicast ", who="A").to == "multicast"
    for number in range(1, MOST_WAYS):
        ways.confirm(1, Protocol.SACN, f"10.0.0.{number}", who="A")
    with pytest.raises(EditError, match="up to"):
        ways.confirm(1, Protocol.SACN, "10.0.1.1", who="A")


def test_answers_are_kept(visitor: Visitor, heard: Heard, shows: ShowStore) -> None:
    """Right, look by look, ends in a proof by sight; dark is a sign in the fixture's history and
    takes a proof back."""
    show = shows.get(3).show
    fixture = next(one for one in order(show, "Fern Gully") if one.label == "Fern 1")
    looks = question(show, fixture, Look.OPEN).looks
    visitor.post("/shows/3/prove/bring", {"fixture": fixture.id, "at": "Fern Gully"})
    for look in looks:
        assert shows.get(3).show.fixture(fixture.id).proven is None
        told = visitor.post(
            "/shows/3/prove/answer",
            {"fixture": fixture.id, "look": look, "answer": "right", "at": "Fern Gully"},
        )
        assert told.status_code == 302
    proven = shows.get(3).show.fixture(fixture.id).proven
    assert proven is not None
    assert proven.by.how == "seen"
    assert "fixture=6" in told.headers["Location"]
    assert len(heard.told) == len(looks) + 1
    visitor.post("/shows/3/prove/bring", {"fixture": fixture.id, "look": "red"})
    visitor.post("/shows/3/prove/answer", {"fixture": fixture.id, "look": "red", "answer": "dark"})
    assert shows.get(3).show.fixture(fixture.id).proven is None
    assert "Fern 1 stays dark, brought up in red" in visitor.get("/shows/3/log?fixture=Fern+1").text
    assert (
        visitor.post(
            "/shows/3/prove/answer", {"fixture": fixture.id, "answer": "maybe"}
        ).status_code
        == 422
    )


def test_only_what_is_sent_is_answered(visitor: Visitor, heard: Heard, shows: ShowStore) -> None:
    """Another fixture is up, another look, another show, nothing at all, or the plan changed since:
    nothing is recorded, whatever is answered, and the page asks nothing."""
    show = shows.get(3).show
    fixture, other = order(show, "Fern Gully")[:2]
    answer = {"fixture": fixture.id, "look": "open white", "enough": "1"}

    def recorded() -> bool:
        held = [shows.get(3).show.fixture(one.id) for one in (fixture, other)]
        return any(
            one.proven != two.proven or one.sign
            for one, two in zip(held, (fixture, other), strict=True)
        )

    def try_all() -> None:
        assert 'id="right"' not in visitor.get(f"/shows/3/prove?fixture={fixture.id}").text
        for told in ("right", "dark", "other", "wrong"):
            said = visitor.post("/shows/3/prove/answer", {**answer, "answer": told})
            assert f"fixture={fixture.id}" in said.headers["Location"]
            assert "is not brought up now" in visitor.get(said.headers["Location"]).text
        assert not recorded()

    try_all()
    visitor.post("/shows/3/prove/bring", {"fixture": other.id})
    try_all()
    visitor.post("/shows/3/prove/bring", {"fixture": fixture.id, "look": "red"})
    try_all()
    visitor.post("/shows/2/prove/bring", {"fixture": fixture.id})
    try_all()
    visitor.post("/shows/3/prove/bring", {"fixture": fixture.id})
    assert 'id="right"' in visitor.get(f"/shows/3/prove?fixture={fixture.id}").text
    saved = shows.get(3)
    shows.save(saved, edits.nudge(saved.show, fixture.id, 200), who="Somebody else")
    try_all()
    visitor.post("/shows/3/prove/bring", {"fixture": fixture.id})
    visitor.post("/out", {})
    try_all()
    visitor.post("/shows/3/prove/bring", {"fixture": fixture.id})
    visitor.post("/shows/3/prove/answer", {**answer, "answer": "right"})
    assert recorded()


def test_a_sign_stays_until_it_is_proven_right(
    visitor: Visitor, heard: Heard, shows: ShowStore
) -> None:
    """On the picture, on the card, among the findings as a caution, in the hand-over; gone with the
    proof."""
    fixture = order(shows.get(3).show, "Fern Gully")[2]
    card = f"/shows/3/set/{fixture.id}"
    for told in ("dark", "other", "wrong"):
        visitor.post("/shows/3/prove/bring", {"fixture": fixture.id})
        visitor.post("/shows/3/prove/answer", {"fixture": fixture.id, "answer": told})
        saved = shows.get(3)
        sign = saved.show.fixture(fixture.id).sign
        assert sign is not None
        (found,) = [one for one in saved.analysis.findings if one.rule == "sign"]
        assert (str(found.severity), found.fixtures) == ("caution", (fixture.id,))
        assert sign.words in visitor.get(card).text
        assert f"; {sign.words}" in unescape(visitor.get("/shows/3/prove?at=Fern+Gully").text)
        assert sign.words in unescape(visitor.get("/shows/3/findings").text)
    visitor.post("/shows/3/prove/bring", {"fixture": fixture.id})
    visitor.post("/shows/3/prove/answer", {"fixture": fixture.id, "answer": "right", "enough": "1"})
    saved = shows.get(3)
    assert saved.show.fixture(fixture.id).sign is None
    assert not [one for one in saved.analysis.findings if one.rule == "sign"]


def test_a_chase_goes_along_the_line(visitor: Visitor, heard: Heard, shows: ShowStore) -> None:
    """Each step brings up one and says which comes next, in the order of the walk; the last one
    offers it anew."""
    fixtures = order(shows.get(3).show, "Fern Gully")
    after: str | None = f"/shows/3/prove/chase?fixture={fixtures[0].id}&at=Fern+Gully"
    walked = []
    while after is not None:
        told = visitor.post(after, {}, htmx=True).text
        walked.append(findall(r"<b>([^<]+)</b>, U", told)[0])
        following = findall(r'hx-post="([^"]+)" hx-trigger="load', told)
        after = unescape(following[0]) if following else None
    assert walked == [one.label for one in fixtures]
    assert len(heard.told) == len(fixtures)


def test_the_tester_says_who_listens_and_what_the_tell_tale_says(shows: ShowStore) -> None:
    """The plan’s names for a slot; a tell-tale that agrees, one that contradicts the port, one at
    zero."""
    show = edits.set_tell_tale(shows.get(1).show, TellTale(512))
    assert tester.whose(show, 1, 65) == "Fern 1’s dimmer"
    assert tester.whose(show, 1, 511) == ""
    for level, words in (
        (3, "this is U1, as it ought"),
        (6, "this is U2, and U1 ought to be here"),
        (0, "at zero"),
    ):
        reading = tester.Reading(True, (), 44.0, bytes(511) + bytes([level]))
        assert words in tester.told(show, reading, 1)
    assert (
        tester.Reading(True, (), 44.0, bytes([254] * 512)).percent(1)
        == "99 % (cut) or 100 % (rounded)"
    )
    assert tester.told(show, tester.NOTHING, 1) == ""


@given(st.binary(min_size=512, max_size=512), st.binary(min_size=512, max_size=512))
def test_a_moment_is_carried_in_the_address(before: bytes, now: bytes) -> None:
    """Levels come back as they were, whatever they are; what has changed since is just what
    differs."""
    assert tester.of_moment(tester.as_moment(before)) == before
    found = tester.changes(before, now)
    assert [slot for slot, _, _ in found] == [at + 1 for at in range(512) if before[at] != now[at]]
    assert all((before[at - 1], now[at - 1]) == (old, new) for at, old, new in found)


@given(st.text(max_size=60))
def test_any_words_are_taken_for_a_moment(words: str) -> None:
    """An address that somebody has typed does no harm."""
    assert len(tester.of_moment(words)) == 512


def test_the_tester_listens_only_where_this_machine_is(visitor: Visitor, heard: Heard) -> None:
    """An address that is none of its own is refused in words; on its own nobody sends, which is
    said."""
    told = visitor.get("/shows/3/prove/tester?bind=203.0.113.9&u=1")
    assert told.status_code == 422
    assert "not an address of this machine" in told.text
    assert visitor.get("/shows/3/prove/tester?bind=%00x&u=1").status_code == 422
    for protocol in ("sacn", "artnet"):

        def silence(protocol: str = protocol) -> bool:
            """Whether nothing is heard. Others may hold the port at this moment, which is said."""
            page = visitor.get(
                f"/shows/3/prove/tester?bind=127.0.0.1&u=431&protocol={protocol}&since=5.7-x.y"
            ).text
            assert "listening" in page
            there = unescape(findall(r'hx-get="([^"]+asked=[^"]+)"', page)[0])
            until(lambda: "listening" not in visitor.get(there).text, "the end of listening")
            said = visitor.get(there).text
            assert "no signal" in said or "cannot be listened on" in said
            return "no signal" in said

        until(silence, "a second of silence")


def test_not_all_listen_at_once(
    visitor: Visitor, heard: Heard, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Of those who listen at one moment there are so many and no more, and the page of one more
    says so."""
    hold = Event()
    monkeypatch.setattr(tester, "on_the_wire", lambda *_: hold.wait(60))
    try:
        for _ in range(MOST_LISTENERS):
            assert "listening" in visitor.get("/shows/3/prove/tester?bind=127.0.0.1&u=9").text
        told = visitor.get("/shows/3/prove/tester?bind=127.0.0.1&u=9")
        assert (told.status_code, "Many listen" in told.text) == (422, True)
    finally:
        hold.set()


@pytest.mark.parametrize(
    ("words", "status"),
    [
        ("#ff8800", 200),
        ("3200 K", 200),
        ("3200k", 200),
        ("x 0.31 y 0,33", 200),
        ("255 136 0", 200),
        ("", 200),
        ("mauve", 422),
        ("100 K", 422),
        ("0 0 0", 422),
        ("1 2", 422),
        ("300 1 2", 422),
    ],
)
def test_colours_as_they_are_typed(visitor: Visitor, heard: Heard, words: str, status: int) -> None:
    """Four ways to say a colour; anything else says what is accepted, and keeps what was typed."""
    told = visitor.get("/shows/3/prove/colour", query_string={"colour": words, "at": "*"})
    assert told.status_code == status
    assert f'value="{words}"' in told.text
    if status == 422:
        assert (
            any(words in unescape(told.text) for words in ("Type #ff8800", "Use "))
            or "Black is not a colour" in told.text
        )
    elif words:
        assert "How far off" in told.text
        assert "each cell red" in told.text
        assert "cell 1" not in told.text
        visitor.post("/shows/3/prove/colour", {"colour": words, "at": "Fern Gully"})
        _, _, levels = heard.told[-1]
        assert any(any(frame) for frame in levels.values())


def test_the_walk_is_narrowed(visitor: Visitor, heard: Heard, shows: ShowStore) -> None:
    """To a position, a universe, a type, or two of them; answers keep to it, and what is unknown
    narrows nothing."""
    show = shows.get(3).show
    kind = show.fixtures[4].profile
    assert {one.profile for one in order(show, None, None, kind)} == {kind}
    assert {one.universe for one in order(show, None, 2)} == {2}
    page = visitor.get(f"/shows/3/prove?u=1&kind={kind}").text
    wanted = order(show, None, 1, kind)
    assert page.count('class="hung') == len(wanted)
    assert f"kind={kind}" in unescape(page)
    visitor.post("/shows/3/prove/bring", {"fixture": wanted[0].id})
    told = visitor.post(
        "/shows/3/prove/answer", {"fixture": wanted[0].id, "answer": "dark", "u": 1, "kind": kind}
    )
    assert f"kind={kind}" in told.headers["Location"]
    assert visitor.get("/shows/3/prove?kind=nothing&at=nowhere").text.count('class="hung') > len(
        wanted
    )


def test_a_type_is_corrected_by_eye(visitor: Visitor, heard: Heard, shows: ShowStore) -> None:
    """Kept for all shows, seen where it is corrected, taken back with 1; what is no correction is
    refused."""
    path = "/shows/3/prove/colour?colour=4000+K&at=*"
    before = visitor.get(path).text
    kind = findall(r'name="profile" value="([^"]+)"', before)[0]
    for words in ("x", "0", "99"):
        assert (
            visitor.post(
                "/shows/3/prove/colour/trim", {"profile": kind, "green": words}
            ).status_code
            == 422
        )
    assert (
        visitor.post("/shows/3/prove/colour/trim", {"profile": "nothing", "green": "2"}).status_code
        == 422
    )
    visitor.post("/shows/3/prove/colour/trim", {"profile": kind, "green": "2,0", "red": "1"})
    after = visitor.get("/shows/1/prove/colour?colour=4000+K&at=*").text
    assert "By eye: corrected" in after
    visitor.post("/shows/3/prove/colour/trim", {"profile": kind, "green": "1"})
    assert "By eye: corrected" not in visitor.get(path).text


def test_one_is_brought_up_alone(shows: ShowStore) -> None:
    """Its own slots have the levels of its look, all others of every universe are at zero, but for
    the tell-tale."""
    show = edits.set_tell_tale(shows.get(1).show, TellTale(512))
    for fixture in order(show)[:20]:
        mode = show.mode_of(fixture)
        assert mode is not None
        frames = with_tell_tale(show, frames_for(show, fixture, Look.OPEN))
        entry = fixture.patch[0]
        assert entry.universe is not None
        assert entry.slot is not None
        own = frames[entry.universe][entry.slot - 1 : entry.slot - 1 + mode.parts[0].footprint]
        assert own == levels_for(mode, Look.OPEN)[: mode.parts[0].footprint]
        others = sum(map(sum, frames.values())) - sum(own)
        tell = show.tell_tale
        told = sum(tell.level(u) or 0 for u in frames) if tell else 0
        assert others - told == sum(levels_for(mode, Look.OPEN)[mode.parts[0].footprint :])


def test_faders_take_levels_in_every_way(visitor: Visitor, heard: Heard, shows: ShowStore) -> None:
    """A number, percent, 16 bits as one; what is no level is refused and nothing goes out; other
    faders stay."""
    show = shows.get(3).show
    head = next(
        one
        for one in order(show)
        if any(len(f.slots) == 2 for f in faders.faders_of(show, one, {}))
    )
    found = faders.faders_of(show, head, {})
    wide = next(one for one in found if len(one.slots) == 2)
    plain = next(one for one in found if len(one.slots) == 1)
    path = "/shows/3/prove/faders"
    visitor.post(path, {"fixture": head.id, "fader": wide.key, "level": "50%"})
    level = heard.levels[wide.universe]
    assert level[wide.slots[0] - 1] * 256 + level[wide.slots[1] - 1] == -(-65535 * 50 // 100)
    for words, value in (("255", 255), ("0", 0), ("100%", 255), ("1%", 3)):
        visitor.post(path, {"fixture": head.id, "fader": plain.key, "level": words})
        assert heard.levels[plain.universe][plain.slots[0] - 1] == value
    told = visitor.post(path, {"fixture": head.id, "fader": plain.key, "level": "7"}, htmx=True)
    # the faders of the same fixture come back
    assert f'name="fixture" value="{head.id}"' in told.text
    sent = len(heard.told)
    for words in ("256", "-1", "101%", "x", ""):
        assert (
            visitor.post(path, {"fixture": head.id, "fader": plain.key, "level": words}).status_code
            == 422
        )
    assert visitor.post(path, {"fixture": head.id, "fader": "9.9", "level": "1"}).status_code == 422
    assert len(heard.told) == sent


def test_cells_go_together_or_each_by_itself(
    visitor: Visitor, heard: Heard, shows: ShowStore
) -> None:
    """One fader moves the same of every cell; by itself each moves its own; together they cover the
    same slots."""
    show = shows.get(3).show
    batten = next(
        one
        for one in order(show)
        if len({f.channel.cell for f in faders.faders_of(show, one, {})}) > 3
    )
    singly = faders.faders_of(show, batten, {})
    joined = faders.together(singly)
    assert sorted(s for f in joined for slots in (f.slots, *f.others) for s in slots) == sorted(
        slot for one in singly for slot in one.slots
    )
    whole = next(one for one in joined if one.others)
    page = visitor.get(f"/shows/3/prove/faders?fixture={batten.id}").text
    assert whole.name in unescape(page)
    visitor.post("/shows/3/prove/faders", {"fixture": batten.id, "fader": whole.key, "level": "90"})
    level = heard.levels[whole.universe]
    assert {level[slots[0] - 1] for slots in (whole.slots, *whole.others)} == {90}
    fields = {"fixture": batten.id, "fader": singly[-1].key, "level": "7", "cells": "each"}
    visitor.post("/shows/3/prove/faders", fields)
    assert sum(1 for one in heard.levels[whole.universe] if one == 7) == 1


def test_any_slot_of_a_universe_is_typed(visitor: Visitor, heard: Heard) -> None:
    """512 fields that say whose slot it is; a level goes out at once, what is none is refused."""
    page = visitor.get("/shows/3/prove/faders/universe/1").text
    assert page.count('hx-trigger="change"') == 512
    assert 'aria-label="Slot 65, Fern 1"' in page
    path = "/shows/3/prove/faders/universe/1"
    for slot, words, level in ((1, "255", 255), (512, "50%", 128), (65, "0", 0)):
        assert visitor.post(path, {"slot": slot, "level": words}, htmx=True).status_code == 204
        assert heard.levels[1][slot - 1] == level
    assert heard.levels[1][0] == 255  # what was sent before stays
    sent = len(heard.told)
    for slot, words in ((0, "1"), (513, "1"), (5, "256"), (5, "x"), (5, "")):
        assert visitor.post(path, {"slot": slot, "level": words}).status_code == 422
    assert visitor.get("/shows/3/prove/faders/universe/77").status_code == 422
    assert len(heard.told) == sent


def test_every_slot_of_a_fixture_is_on_one_fader(shows: ShowStore) -> None:
    """No slot is missing, none is there twice."""
    show = shows.get(1).show
    for fixture in order(show):
        mode = show.mode_of(fixture)
        if mode is None or not mode.parts[0].channels:
            continue
        slots = [
            (f.universe, slot) for f in faders.faders_of(show, fixture, {}) for slot in f.slots
        ]
        wanted = [
            (entry.universe, (entry.slot or 0) + place)
            for part, entry in zip(mode.parts, fixture.patch, strict=False)
            for place in range(len(part.channels))
        ]
        assert slots == wanted


def test_a_box_gets_its_own_universes(shows: ShowStore) -> None:
    """An address that the show does not know gets all of them, from 0 on for Art-Net."""
    show = shows.get(2).show
    strange = ConfirmedWay(Protocol.ARTNET, "203.0.113.7", "A", shows.clock())
    there = real_ways(show, [strange], Reach.here())
    assert [way.number for way in there] == [way.universe - 1 for way in there]
    assert {way.universe for way in there} == {
        u for f in show.fixtures for u in [e.universe for e in f.patch] if u
    }


def test_an_empty_show_says_what_comes_first(visitor: Visitor, heard: Heard) -> None:
    """No fixtures: each page of the step says so; with some that have no address it is to lay them
    out."""
    visitor.post("/shows", {"name": "Empty"})
    for path in ("tester", "compare", "seen"):
        assert visitor.get(f"/shows/4/prove/{path}").status_code == 200
    begun = ("", "/faders", "/troubleshoot")
    for path in begun:
        told = visitor.get(f"/shows/4/prove{path}").text
        assert ("No fixtures yet." in told, "once it has an address" in told) == (True, True)
        assert 'btn-primary" href="/shows/4/rig/add"' in told
    added = {"kind": "any", "channels": "4", "quantity": 1, "label": "Fern", "universe": 1}
    visitor.post("/shows/4/rig/add", {**added, "revision": 1})
    unplaced = {"picked": "1", "action": "unplace", "revision": 2}
    visitor.post("/shows/4/rig/bulk", unplaced)
    for path in begun:
        told = visitor.get(f"/shows/4/prove{path}").text
        assert ("has both a mode and an address" in told, "Lay out addresses" in told) == (
            True,
            True,
        )


@pytest.mark.parametrize(
    "to", ["8.8.8.8", "255.255.255.255", "239.255.0.1", "127.255.255.255", "127.0.0.0", "0.0.0.0"]
)
def test_who_is_far_or_everybody_is_not_confirmed(
    visitor: Visitor, heard: Heard, ways: Ways, to: str
) -> None:
    """It says what is accepted, and nothing is kept."""
    told = visitor.post("/shows/2/prove/ways", {"to": to, "protocol": "artnet", "sure": "1"})
    assert told.status_code == 422
    assert ways.of(2) == []


def test_a_broadcast_that_the_plan_chooses(
    visitor: Visitor, heard: Heard, shows: ShowStore, ways: Ways
) -> None:
    """A node in a network of this machine that is fed by broadcast makes its address one to choose,
    said in words; all nodes that are fed so get their universes, and it ends with the plan."""
    before = shows.get(2)
    box = next(box for box in before.show.boxes if any(port.universe for port in box.ports))
    fed = edits.change_box(
        before.show, box.id, ip="127.0.0.9", way=Feeding.BROADCAST, protocol=Protocol.ARTNET
    )
    shows.save(before, fed, who="A")
    page = unescape(visitor.get("/shows/2/prove").text)
    assert (
        f"127.255.255.255</span> is everybody in 127.0.0.0/8, since {box.name} is fed by broadcast"
        in page
    )
    confirmed = {"to": "127.255.255.255", "protocol": "artnet", "sure": "1"}
    assert visitor.post("/shows/2/prove/ways", confirmed).status_code == 302
    visitor.post("/shows/2/prove/bring", {"fixture": 1})
    _, there, _ = heard.told[-1]
    assert {way.universe for way in there} == {port.universe for port in box.ports if port.universe}
    assert all(way.broadcast and way.to == "127.255.255.255" for way in there)
    output = Output("127.0.0.1")
    output.want(Wanted(there))
    assert len(output.streams) == len(there)
    output.want(Wanted(tuple(replace(way, broadcast=False) for way in there)))
    assert output.streams == {}
    assert "everybody in" in output.problem
    output.end()


def test_a_fault_that_is_none_is_told_at_once(
    visitor: Visitor, heard: Heard, app: Flask, shows: ShowStore
) -> None:
    """Before a rig is started: it says what is accepted."""
    told = visitor.post("/shows/3/prove/faults", {"fault": "nonsense=Fern 1"})
    assert told.status_code == 422
    assert app.extensions["fence_rigs"].of(shows.get(3)) is None


def test_a_deleted_show_is_out(visitor: Visitor, heard: Heard) -> None:
    """Nothing is sent any more for a show that is put away; for another one it goes on."""
    visitor.post("/shows/3/prove/bring", {"fixture": 5})
    visitor.post("/shows/1/delete", {})
    assert heard.told[-1][0] != "out"
    visitor.post("/shows/3/delete", {})
    assert heard.told[-1][0] == "out"
    assert "All is out" in visitor.get("/").text


def test_all_out_says_so_on_a_full_disk(visitor: Visitor, heard: Heard, shows: ShowStore) -> None:
    """That nothing is sent any more is said in any case, and that the log could not be written
    beside it."""
    visitor.post("/shows/3/prove/bring", {"fixture": 5})
    with patch.object(shows, "tell", side_effect=StorageError("The disk is full.")):
        assert visitor.post("/out", {}).status_code == 302
    assert heard.told[-1][0] == "out"
    page = unescape(visitor.get("/").text)
    assert (
        "All is out: nothing is sent any more. The log could not be written (The disk is full)."
        in page
    )
