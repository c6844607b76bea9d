"""Talking with fixtures on the pages, the rig a process of its own: kept, spare, grown, reset,
charts, refusals."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import ExitStack
from dataclasses import replace
from pathlib import Path

import pytest
from flask import Flask

from fence.core import edits
from fence.core.model.address import Address
from fence.core.model.box import Protocol
from fence.core.model.profile import Mode, Part
from fence.core.model.record import How
from fence.core.model.show import Show
from fence.core.model.standing import State, state_of
from fence.core.rdm.device_info import DeviceInfo
from fence.core.rdm.packet import Identity
from fence.store.shows import ShowStore
from fence.wire import rdm_ports
from fence.wire.rdm_ports import Place, hear_all, talking
from fence.work.rdm_jobs import Work, Works
from tests.addresses import own
from tests.conftest import Visitor, until
from tests.core.rdm.test_rig_from_devices import SPOT
from tests.wire.test_rdm import standing_in

GONE = str(Identity(0x7FF9, 1))


class Rig:
    """A show with its box, and the process that stands in for what hangs on it."""

    def __init__(
        self, app: Flask, visitor: Visitor, shows: ShowStore, folder: Path, stack: ExitStack
    ) -> None:
        self.works: Works = app.extensions["fence_works"]
        self.visitor, self.shows, self.folder, self.stack, self.ip = (
            visitor,
            shows,
            folder,
            stack,
            own(71),
        )

    def make(self, planned: Show, outside: Show, *faults: str) -> None:
        """Plan a show with a box for U1, let something hang there, and ask who is there."""
        planned = edits.add_box(planned, "Truss node")
        box = replace(planned.boxes[-1], ip=self.ip, protocol=Protocol.ARTNET, counts_from=0)
        planned = edits.give(
            edits.count_ports(edits.put_box(planned, box), box.id, 1), box.id, {1: 1}
        )
        self.saved = self.shows.create(planned, who="Planner")
        self.place = f"/shows/{self.saved.id}/rdm"
        self.stack.enter_context(standing_in(outside, self.folder, self.ip, *faults))
        self.visitor.get(self.place)
        assert self.post("/ask", place=f"box-{box.id}").status_code == 302
        self.over()

    def over(self) -> str:
        """Wait for the end of the work; what it said."""
        until(
            lambda: (work := self.works.of(self.saved.key)) is None or work.over,
            "the end of the work",
        )
        work = self.works.of(self.saved.key)
        return work.told if work else ""

    def post(self, path: str, **fields: object):  # type: ignore[no-untyped-def]
        """Send a form of these pages."""
        return self.visitor.post(self.place + path, {"revision": self.show().revision, **fields})

    def show(self):  # type: ignore[no-untyped-def]
        """The show as it is saved."""
        return self.shows.get(self.saved.id)

    def outside(self) -> dict[str, DeviceInfo]:
        """What they really say, by label."""
        return {one.label: one for one in self.outside_all()}

    def outside_all(self) -> list[DeviceInfo]:
        """What they really say."""
        with talking(own(72)) as lines:
            return hear_all(lines, [Place(self.ip, 0, 1)], flush=False)[0]


@pytest.fixture
def rig(app: Flask, visitor: Visitor, shows: ShowStore, tmp_path: Path) -> Iterator[Rig]:
    """Somebody who talks."""
    with ExitStack() as stack:
        yield Rig(app, visitor, shows, tmp_path, stack)


def spots(count: int, *, mode: str = "Short") -> Show:
    """Spots one after the other on U1."""
    run = edits.AddRun(SPOT, mode, count, "Spot 1", start=Address(1, 1))
    return edits.add_fixtures(Show("Barn"), run)


def test_what_they_said_is_kept(rig: Rig) -> None:
    """Read back by RDM, with who is who; one that stands elsewhere differs, and is set in one
    go."""
    wrong = edits.place(spots(3), 2, Address(1, 50))
    rig.make(spots(3), wrong)
    page = rig.visitor.get(rig.place).text
    assert "says 050, planned is 004" in page
    rig.post("/keep")
    show = rig.show().show
    assert [f.serial for f in show.fixtures] == [
        str(one.identity) for one in rig.outside().values()
    ]
    assert [f.read_back.says for f in show.fixtures if f.read_back] == [(1,), (50,), (7,)]
    assert {f.read_back.by.how for f in show.fixtures if f.read_back} == {How.RDM}
    assert [state_of(show, f) for f in show.fixtures] == [State.SET, State.DIFFERS, State.SET]
    would = rig.post("/set", what="all").text
    assert "address 050 → 004" in would
    assert "Set 1 device" in would
    assert rig.outside()["Spot 2"].address == 50, "it is seen before it is done"
    rig.post("/set", what="all", seen=1)
    assert rig.over() == "1 of 1 device set and heard back."
    assert rig.outside()["Spot 2"].address == 4
    show = rig.show().show
    assert {state_of(show, f) for f in show.fixtures} == {State.SET}


def test_labels_and_displays_as_they_hang(rig: Rig) -> None:
    """Those that hang upside down get their display turned, all that differ their label; nobody
    else is touched."""
    planned = edits.rename(
        edits.set_turned(spots(3), [2], turned=True), 3, "Ladder side of the long front truss 3"
    )
    rig.make(planned, spots(3))
    rig.post("/keep")  # so that it is known without its label
    rig.post(f"/device/{rig.outside()['Spot 3'].identity}/who", fixture=3)
    rig.post("/set", what="all", labels=1, displays=1, seen=1)
    assert rig.over() == "2 of 2 devices set and heard back."
    assert {name: one.display_invert for name, one in rig.outside().items()} == {
        "Spot 1": False,
        "Spot 2": True,
        "Ladder side of the long front tr": False,
    }
    rig.post("/set", what="all", labels=1, displays=1, seen=1)
    assert "Nobody differs" in rig.post("/set", what="all", labels=1, displays=1, seen=1).text


def test_those_who_share_an_address_are_set_to_it(rig: Rig) -> None:
    """By declaration, with one that stands there and one that cannot be asked; by hand, where
    somebody ticks it."""
    planned = edits.place(edits.place(spots(4), 3, Address(1, 4)), 4, Address(1, 4))
    planned = edits.share(planned, [2, 3, 4])
    rig.make(planned, spots(4), "no-rdm=Spot 4")
    assert "1 of 1 device set" in (rig.post("/set", what="all", seen=1) and rig.over())
    assert rig.outside()["Spot 3"].address == 4
    name = rig.outside()["Spot 1"].identity
    assert "listens there" in rig.post(f"/device/{name}/set", address="5", personality="1").text
    rig.post(f"/device/{name}/set", address="5", personality="1", sure="1", seen="1")
    assert "1 of 1 device set" in rig.over()
    assert rig.outside()["Spot 1"].address == 5


def test_a_spare_takes_a_place(rig: Rig) -> None:
    """Its own device is gone: the spare of its type gets mode, address and label in one step, when
    it is free."""
    planned = edits.keep_identities(spots(3, mode="Long"), {2: GONE})
    outside = edits.rename(edits.change_mode(spots(3), [2], "Short"), 2, "From the library")
    rig.make(planned, edits.place(outside, 2, Address(1, 200)))
    spare = rig.outside()["From the library"]
    page = rig.visitor.get(f"{rig.place}/device/{spare.identity}").text
    assert "In the place of" in page
    assert f"its own device {GONE} does not answer" in rig.visitor.get(rig.place).text
    rig.post(f"/device/{spare.identity}/who", fixture=2, spare=1)
    rig.over()
    assert "its place is held by Spot 3" in rig.visitor.get(rig.place).text
    rig.post("/set", what="all", seen=1)
    assert "3 of 3 devices set" in rig.over()
    now = rig.outside()["Spot 2"]
    assert (now.identity, now.address, now.mode) == (spare.identity, 6, "Long")
    fixture = rig.show().show.fixture(2)
    assert fixture.serial == str(spare.identity)
    assert state_of(rig.show().show, fixture) is State.SET


def test_a_grown_mode_is_fitted_in_and_set(rig: Rig) -> None:
    """Seen first, then planned and set; who is in the way moves, and is set, too."""
    bigger = replace(SPOT, modes=(Mode("Short", (Part(6),)), SPOT.modes[1]))
    outside = replace(spots(3), profiles=(bigger,))
    rig.make(spots(3), outside)
    assert "Make room for grown modes" in rig.visitor.get(rig.place).text
    assert "0 change" not in rig.visitor.get(f"{rig.place}/first/grown").text
    rig.post("/first/grown", seen=1)
    rig.over()
    taken: set[int] = set()
    for one in rig.outside().values():
        slots = set(range(one.address or 0, (one.address or 0) + 6))
        assert not slots & taken
        taken |= slots
    assert [f.start for f in rig.show().show.fixtures] == [
        one.address for one in rig.outside().values()
    ]


def test_who_is_who_is_taken_back_by_undo(rig: Rig) -> None:
    """Somebody says that one is another: it is; after an undo it is as before."""
    rig.make(spots(2), spots(2), "heap")
    one = min(said.identity for said in rig.outside_all())
    assert "any of several" in rig.visitor.get(f"{rig.place}/device/{one}").text
    rig.post(f"/device/{one}/who", fixture=2)
    assert "somebody said so" in rig.visitor.get(f"{rig.place}/device/{one}").text
    assert rig.show().show.fixture(2).serial == str(one)
    rig.visitor.post(f"/shows/{rig.saved.id}/undo", {"revision": rig.show().revision})
    assert not rig.show().show.fixture(2).serial
    assert "any of several" in rig.visitor.get(f"{rig.place}/device/{one}").text


def test_a_reset_is_asked_for_twice(rig: Rig) -> None:
    """Not without the tick; then the factory defaults are there, recorded, and on the log."""
    rig.make(spots(2), spots(2))
    name = str(rig.outside()["Spot 2"].identity)
    refused = rig.post(f"/device/{name}/reset", what="factory")
    assert refused.status_code == 422
    assert "nobody is near it" in refused.text
    assert rig.outside()["Spot 2"].address == 4
    rig.post(f"/device/{name}/reset", what="factory", sure=1)
    assert rig.over() == "Spot 2 has its factory defaults again."
    assert rig.outside()[""].address == 1
    assert state_of(rig.show().show, rig.show().show.fixture(2)) is State.DIFFERS
    assert "has its factory defaults again" in rig.visitor.get(f"/shows/{rig.saved.id}/log").text


def test_a_chart_is_read_from_a_fixture(rig: Rig) -> None:
    """All modes with their channels stand on the page where charts are completed, with where they
    come from."""
    rig.make(spots(1), spots(1))
    name = str(rig.outside()["Spot 1"].identity)
    rig.post(f"/device/{name}/chart", modes=1)
    assert rig.over().startswith("Said by the fixture: 2 modes of 2.")
    page = rig.visitor.get(rig.visitor.get(f"{rig.place}/progress").headers["HX-Redirect"]).text
    for words in ("said by the fixture, software 1.0", "beam width", "pan fine", "Short", "Long"):
        assert words in page
    assert rig.outside()["Spot 1"].mode == "Short"


def test_what_cannot_be_is_said(rig: Rig) -> None:
    """Nothing ticked, a guess not confirmed, an address that is taken or past the end, minutes,
    unknown devices."""
    rig.make(spots(3), spots(3), "heap")
    pages = rig.visitor
    name = str(rig.outside()[""].identity)
    for path, fields, words in (
        ("/ask", {}, "Tick at least one node"),
        ("/set", {"what": "picked"}, "Tick those that are to be set"),
        ("/set", {"what": "picked", "identity": name}, "only guessed"),
        ("/set", {"what": "all"}, "the others are only guessed"),
        (f"/device/{name}/set", {"address": "511", "personality": "2"}, "Use 1 to 508"),
        (f"/device/{name}/set", {"address": "2", "personality": "1"}, "listens there"),
        (f"/device/{name}/set", {"address": "9", "personality": "7"}, "modes 1 to 2"),
        ("/hold", {"minutes": "0", "rule": "tell"}, "Use 1 to 120"),
        ("/hold", {"minutes": "5", "rule": "shout"}, "Choose what is done"),
        ("/blink", {"identity": "7FF0:00000FFF", "on": "1"}, "ask once more"),
        ("/first", {"school": "none"}, "Choose a way"),
    ):
        answer = rig.post(path, **fields)
        assert (
            words in pages.get(answer.location).text
            if answer.status_code == 302
            else words in answer.text
        ), path
    assert {one.address for one in rig.outside().values()} == {1}


def test_an_empty_show_offers_nothing_to_set(
    visitor: Visitor, shows: ShowStore, app: Flask, over: Callable[[int], Work]
) -> None:
    """The practice rig of a show without fixtures: nobody answers, and nothing can be set or
    held."""
    saved = shows.create(Show("Empty"), who="Crew")
    place = f"/shows/{saved.id}/rdm"
    visitor.get(place)
    visitor.post(f"{place}/ask", {"place": "practice"})
    try:
        over(saved.id)
        page = visitor.get(place).text
        assert "Nobody answered" in page
        assert "set-all" not in page
        assert "Nobody has answered yet" in visitor.get(f"{place}/hold").text
        assert "Nobody has answered yet" in visitor.get(f"{place}/first").text
    finally:
        app.extensions["fence_rigs"].end()


def test_a_look_that_finds_nobody_leaves_the_one_before(rig: Rig) -> None:
    """The box is away: it is said, and what was said before stays."""
    rig.make(spots(2), spots(2))
    rig.stack.close()
    rig.post("/ask", place="box-1")
    assert rig.over().startswith("Nobody answered. What was said before stays.")
    assert "2</b> of the plan answer" in rig.visitor.get(rig.place).text


def test_talk_that_hangs_holds_nobody_up(
    rig: Rig, app: Flask, monkeypatch: pytest.MonkeyPatch
) -> None:
    """While something talks and does not come to an end every button of these pages answers, on
    more shows than there are threads that answer; so do marks, All out and the tester. Each waits
    its time, and says what was in the way."""
    rig.make(spots(2), spots(2))
    name = str(rig.outside()["Spot 2"].identity)
    for limit in ("SHORT_SECONDS", "LONGEST_SECONDS"):
        monkeypatch.setattr(f"fence.work.rdm_jobs.{limit}", 0.2)
    for place in (
        "views.SHORT_SECONDS",
        "views.ALL_SECONDS",
        "device.SHORT_SECONDS",
        "device.CHART_SECONDS",
    ):
        monkeypatch.setattr(f"fence.web.rdm.{place}", 0.2)
    assert rdm_ports._one_at_a_time.acquire(timeout=10)
    try:
        for path, fields in (
            ("/blink", {"identity": name, "on": "1"}),
            ("/blink", {}),
            (f"/device/{name}/reset", {"what": "factory", "sure": "1"}),
            (f"/device/{name}/reset", {"what": "reset", "sure": "1"}),
            (f"/device/{name}/chart", {"modes": "1"}),
            (
                f"/device/{name}/set",
                {"address": "99", "personality": "1", "sure": "1", "seen": "1"},
            ),
            ("/set", {"what": "picked", "identity": name, "seen": 1}),
            ("/ask", {"place": "box-1"}),
        ):
            assert rig.post(path, **fields).status_code == 302, path
            assert rig.visitor.post("/out", {}).status_code == 302
            assert (
                rig.visitor.post("/shows/1/set/1/serial", {"serial": path[:20]}).status_code == 302
            )
            assert "does not come to an end" in rig.over(), path
        for number in range(12):
            other = rig.shows.create(Show(f"Show {number}"), who="A")
            assert (
                rig.visitor.post(f"/shows/{other.id}/rdm/ask", {"place": "practice"}).status_code
                == 302
            )
        assert rig.visitor.get("/healthz").text == "ok"
    finally:
        rdm_ports._one_at_a_time.release()
        app.extensions["fence_rigs"].end()
    assert rig.outside()["Spot 2"].address == 4


def test_silent_devices_take_their_time_and_no_more(
    rig: Rig, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Forty that do not answer any more: blinking ends at its limit, and says so; what was heard
    stays."""
    monkeypatch.setattr("fence.web.rdm.views.ALL_SECONDS", 1.0)
    rig.make(spots(40, mode="Short"), spots(40, mode="Short"))
    rig.stack.close()
    rig.post("/blink")
    assert "took too long" in rig.over()
    assert "<b>40</b> of the plan answer" in rig.visitor.get(rig.place).text
