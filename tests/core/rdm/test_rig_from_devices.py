"""Who is who, letting them speak first, a spare in a place, a grown mode, charts, and holding."""

from __future__ import annotations

from dataclasses import replace
from random import Random

import pytest

from fence.core import edits
from fence.core.addressing.schools import Layout, School
from fence.core.checks import Severity, analyse
from fence.core.model.address import Address
from fence.core.model.line import Device, Line, Stop
from fence.core.model.profile import Byte, Channel, Function, Mode, Part, Profile
from fence.core.model.show import Show
from fence.core.rdm.charting import all_slots, chart_said, slots_of
from fence.core.rdm.controller import Controller
from fence.core.rdm.device_info import DeviceInfo, hear_out
from fence.core.rdm.device_matching import Sure, match
from fence.core.rdm.holding import changes, put_back
from fence.core.rdm.packet import Identity
from fence.core.rdm.responder import Responder, SimulatedLine
from fence.core.rdm.rig_from_devices import grown, refit, spares_of, speak_first
from fence.core.rdm.values import Personality
from fence.standins.rdm_devices import RdmLines, read_talk_fault, responder_for

F = Function
SPOT = Profile(
    "wren-bud",
    "Wren",
    "Bud",
    (
        Mode("Short", (Part(3, (Channel(F.RED), Channel(F.GREEN), Channel(F.BLUE, default=7))),)),
        Mode(
            "Long",
            (
                Part(
                    5,
                    (
                        Channel(F.DIMMER),
                        Channel(F.PAN, byte=Byte.COARSE),
                        Channel(F.PAN, byte=Byte.FINE),
                        Channel(F.TILT),
                        Channel(F.ZOOM, "beam width"),
                    ),
                ),
            ),
        ),
    ),
    rdm=True,
)
OLD = Profile("ash-drum", "Ash", "Drum", (Mode("4 channel", (Part(4),)),))
"""A type that does not speak."""


def planned(count: int = 4, *, start: int = 1) -> Show:
    """A show with spots one after the other on U1."""
    run = edits.AddRun(SPOT, "Short", count, "Spot 1", start=Address(1, start))
    return edits.add_fixtures(Show("Barn"), run)


def heard(show: Show, *faults: str, seed: int = 1) -> list[DeviceInfo]:
    """What the devices of a show say, with faults."""
    lines = RdmLines(show, [read_talk_fault(show, text) for text in faults], seed=seed)
    found = []
    for universe, line in lines.lines.items():
        talk = Controller(line.exchange, tries=8)
        found += [
            hear_out(talk, one, universe=universe) for one in lines.table(universe, anew=True)
        ]
    return found


def sures(show: Show, said: list[DeviceInfo]) -> list[tuple[str, str]]:
    """Who is taken to be whom: the label planned with the one that the device had at first, by its
    identity."""
    first = {f.id: f.label for f in show.fixtures}
    return [
        (p.fixture.label, first.get(p.said.identity.device, "?")) for p in match(show, said).pairs
    ]


def test_labels_and_identities_are_certain_whatever_the_address() -> None:
    """By label first; once the identity is kept, by that, though label and address are gone."""
    show = planned()
    said = heard(show)
    assert {pair.sure for pair in match(show, said).pairs} == {Sure.CERTAIN}
    kept = edits.keep_identities(
        show, {p.fixture.id: str(p.said.identity) for p in match(show, said).pairs}
    )
    heap = heard(kept, "heap")
    assert {one.address for one in heap} == {1}
    found = match(kept, heap)
    assert {pair.sure for pair in found.pairs} == {Sure.CERTAIN}
    assert all(label == was for label, was in sures(kept, heap))
    assert not found.strange


@pytest.mark.parametrize(
    "labels",
    [
        ("Груша 1", "Лира 1", "Лира 2"),
        ("北 1", "南 1", "南 2"),
        ("A very long name of a truss at the front 1", "B", "b2"),
    ],
)
def test_labels_of_any_script_tell_who_is_who(labels: tuple[str, ...]) -> None:
    """What is written in other letters, or is cut at 32 bytes, is still a name; numbers alone are
    none."""
    show = planned()
    for fixture, label in zip(show.fixtures, labels, strict=False):
        show = edits.rename(show, fixture.id, label)
    said = [replace(one, address=1) for one in heard(show)]
    found = match(show, said)
    assert [pair.sure for pair in found.pairs][:3] == [Sure.CERTAIN] * 3
    assert all(label == was for label, was in sures(show, said))
    other = [replace(one, label="Слива 1") for one in said[:1]]
    assert match(show, other).pairs[0].sure is not Sure.CERTAIN


def test_without_label_the_address_and_the_order_speak() -> None:
    """Of that type at that address is likely; as many as planned at other addresses go in order,
    which is a guess; in a heap nobody can tell."""
    show = planned()
    said = [replace(one, label="") for one in heard(show)]
    assert {pair.sure for pair in match(show, said).pairs} == {Sure.LIKELY}
    moved = [replace(one, address=(one.address or 0) + 100) for one in said]
    assert {pair.sure for pair in match(show, moved).pairs} == {Sure.GUESS}
    assert all(label == was for label, was in sures(show, moved))
    found = match(show, heard(show, "heap"))
    assert [pair.sure for pair in found.pairs] == [Sure.ANY] * 4
    alone = match(planned(1), heard(planned(1), "heap"))
    assert alone.pairs[0].sure is Sure.LIKELY


def test_another_type_is_not_taken_for_it() -> None:
    """A device of another model at the planned address is not the fixture."""
    show = planned(1)
    said = [replace(one, label="", model="Thrush") for one in heard(show)]
    found = match(show, said)
    assert not found.pairs
    assert [one.model for one in found.strange] == ["Thrush"]
    assert found.missing[0].expected


def test_who_is_missing_and_why() -> None:
    """No RDM by its chart, behind a splitter that does not pass it, on a universe that was not
    asked, or to be seen."""
    show = edits.add_fixtures(
        planned(3), edits.AddRun(OLD, "4 channel", 1, "Drum", start=Address(1, 100))
    )
    ids = [fixture.id for fixture in show.fixtures]
    stops = (
        Stop(1, None, None, ids[0]),
        Stop(2, 1, None, None, Device.SPLITTER, "Old splitter", 2, True, False),
        Stop(3, 2, 1, ids[1]),
    )
    show = replace(show, lines=(Line(1, "Line A", 1, stops=stops),))
    why = {m.fixture.label: (m.why, m.expected) for m in match(show, [], asked=[1]).missing}
    assert why["Spot 2"] == ("behind Old splitter, which does not pass RDM", False)
    assert why["Drum"][0] == "its chart says that it does not speak RDM"
    assert why["Spot 1"][1]
    assert why["Spot 3"][1]
    assert "U1 was not asked" in {m.why for m in match(show, [], asked=[2]).missing}
    assert {one.label for one in heard(show)} == {"Spot 1", "Spot 3"}


def test_what_differs_is_named() -> None:
    """Mode, address and universe, each in words."""
    show = planned(1)
    said = heard(show)[0]
    other = replace(said, personality=2, footprint=5, address=77, universe=3)
    (pair,) = match(show, [other]).pairs
    assert pair.differs == (
        "is in mode “Long”, planned is “Short”",
        "says 077, planned is 001",
        "hangs on U3, planned is U1",
    )


def stops_of(show: Show) -> list[str]:
    """The stops that the rules see."""
    return [f.message for f in analyse(show).findings if f.severity is Severity.STOP]


@pytest.mark.parametrize(
    "layout", [None, Layout(School.BACK_TO_BACK), Layout(School.PAGED, page=8)]
)
def test_a_heap_becomes_a_rig(layout: Layout | None) -> None:
    """Thirty at 1, two that do not speak in the middle: all planned without stops, the two where
    they were."""
    whole = planned(30)
    said = heard(whole, "heap")
    mute = edits.add_fixtures(
        Show("Barn"), edits.AddRun(OLD, "4 channel", 1, "Drum 1", start=Address(1, 30))
    )
    mute = edits.add_fixtures(
        mute, edits.AddRun(OLD, "4 channel", 1, "Drum 2", start=Address(1, 62))
    )
    spoken = speak_first(mute, said, library=[SPOT], layout=layout)
    assert len(spoken.added) == 30
    assert not spoken.unplaced
    assert not stops_of(spoken.show)
    assert [str(f.patch[0]) for f in spoken.show.fixtures[:2]] == [
        str(f.patch[0]) for f in mute.fixtures
    ]
    assert {pair.sure for pair in spoken.match.pairs} == {Sure.CERTAIN}
    assert {f.serial for f in spoken.show.fixtures[2:]} == {str(one.identity) for one in said}
    starts = [f.start or 0 for f in spoken.show.fixtures[2:]]
    if layout is not None:
        assert all(start % 8 == 1 for start in starts) or max(starts) <= 2 * (4 + 2) + 30 * 3


def test_a_type_that_nobody_knows_is_taken_from_what_it_says() -> None:
    """Its modes with their channels by number; the chart says where it comes from."""
    said = [replace(one, maker="Rook", model="Caw", label="") for one in heard(planned(2))]
    spoken = speak_first(Show("Empty"), said, layout=Layout(School.BACK_TO_BACK))
    (chart,) = spoken.charts
    assert chart.source == "said by the fixture, software 1.0"
    assert [(mode.name, mode.footprint) for mode in chart.modes] == [("Short", 3), ("Long", 5)]
    assert [f.label for f in spoken.show.fixtures] == ["Caw 1", "Caw 2"]
    assert [f.start for f in spoken.show.fixtures] == [1, 4]


def test_more_than_a_cable_holds_is_said() -> None:
    """Two hundred of three channels on one cable: those without room are named, none goes to
    another cable."""
    said = [
        DeviceInfo(
            Identity(0x7FF0, n + 1),
            universe=1,
            maker="Wren",
            model="Bud",
            personality=1,
            footprint=3,
            address=1,
            personalities=(Personality(1, "Short", 3), Personality(2, "Long", 5)),
        )
        for n in range(200)
    ]
    spoken = speak_first(Show("Barn"), said, library=[SPOT], layout=Layout(School.BACK_TO_BACK))
    assert len(spoken.unplaced) == 30
    assert {entry.universe for f in spoken.show.fixtures for entry in f.patch if entry.slot} == {1}


def test_a_spare_takes_the_place() -> None:
    """The one whose own device is gone is offered, no other; what was known of the old thing is
    forgotten."""
    show = planned(3)
    said = heard(show)
    show = edits.keep_identities(
        show, {p.fixture.id: str(p.said.identity) for p in match(show, said).pairs}
    )
    show = edits.mark_set(show, [show.fixtures[1].id])
    spare = replace(said[1], identity=Identity(0x7FF9, 99), label="", address=1)
    found = match(show, [said[0], spare, said[2]])
    assert [(m.fixture.label, m.expected) for m in found.missing] == [("Spot 2", True)]
    assert "does not answer" in found.missing[0].why
    ((name, places),) = spares_of(show, found).items()
    assert (name, [f.label for f in places]) == ("7FF9:00000063", ["Spot 2"])
    after = edits.take_place(show, places[0].id, name)
    assert after.fixtures[1].set_to is None
    pair = match(after, [said[0], spare, said[2]]).pairs[1]
    assert (pair.fixture.label, pair.sure) == ("Spot 2", Sure.CERTAIN)


def test_a_grown_mode_is_fitted_in() -> None:
    """The mode has two channels more than its chart: it is planned so, and nothing else moves."""
    show = planned(3)
    said = heard(show)
    big = replace(
        said[1],
        footprint=5,
        personalities=(Personality(1, "Short", 5), Personality(2, "Long", 7)),
        software="2",
    )
    found = match(show, [said[0], big, said[2]])
    (pair,) = [pair for pair in found.pairs if grown(show, pair)]
    after = refit(show, [pair])
    assert not stops_of(after)
    moved = [
        f.label for f, g in zip(show.fixtures, after.fixtures, strict=True) if f.patch != g.patch
    ]
    assert moved == ["Spot 2"]
    assert after.modes[after.fixtures[1].profile, "Short"].footprint == 5
    assert (
        after.profile_by_id[after.fixtures[1].profile].source
        == "modes as said by the fixture (software 2)"
    )


def one_device() -> tuple[Responder, Controller, DeviceInfo]:
    """A spot that talks."""
    show = planned(1)
    device = responder_for(show, show.fixtures[0], SPOT)
    talk = Controller(SimulatedLine([device], Random(1)).exchange)
    return device, talk, hear_out(talk, device.identity, universe=1)


def test_a_chart_is_what_the_fixture_was_made_of() -> None:
    """Functions, bytes, words and defaults of all modes come back; the device stands as before."""
    device, talk, said = one_device()
    device.personality, device.address = 2, 44
    said = hear_out(talk, device.identity)
    chart = chart_said(said, all_slots(talk, said))
    for told, made in zip(chart.modes, SPOT.modes, strict=True):
        assert told.name == made.name
        for mine, its in zip(told.parts[0].channels, made.parts[0].channels, strict=True):
            assert (mine.function, mine.byte, mine.default) == (its.function, its.byte, its.default)
            assert mine.title == its.title
    assert (device.personality, device.address) == (2, 44)
    only = chart_said(said, {2: slots_of(talk, said.identity, said.footprint)})
    assert [bool(mode.parts[0].channels) for mode in only.modes] == [False, True]


def test_a_long_answer_comes_whole_over_a_bad_line() -> None:
    """SLOT_INFO of 200 slots comes in five packets; where a piece is lost it is begun anew."""
    slots = tuple(Channel(F.RED, cell=n + 1) for n in range(200))
    profile = replace(SPOT, modes=(Mode("Wall", (Part(200, slots),)),))
    show = edits.add_fixtures(
        Show("Wall"), edits.AddRun(profile, "Wall", 1, "Wall", start=Address(1, 1))
    )
    device = responder_for(show, show.fixtures[0], profile)
    for seed in range(20):
        talk = Controller(SimulatedLine([device], Random(seed), 0.1).exchange, tries=10)
        told = slots_of(talk, device.identity, 200)
        assert [slot.offset for slot in told.slots] == list(range(200))


def test_what_was_changed_at_a_fixture_is_put_back() -> None:
    """Mode, address and pan: noticed, named and restored."""
    device, talk, held = one_device()
    device.personality, device.address, device.pan_invert = 2, 300, 1
    now = hear_out(talk, device.identity, universe=1)
    assert [str(change) for change in changes(held, now)] == [
        "mode Short → Long",
        "address 001 → 300",
        "pan straight → turned",
    ]
    assert not changes(held, put_back(talk, held, now))
    assert (device.personality, device.address, device.pan_invert) == (1, 1, 0)


def test_bad_answers_are_said() -> None:
    """One whose sums are wrong is named with its problem; a slow one and a rack are read like all
    others."""
    show = planned(3)
    said = {
        one.label or "?": one
        for one in heard(show, "broken=Spot 1", "slow=Spot 2", "rack=Spot 3:2")
    }
    assert said["?"].problem == "It does not answer."
    assert said["Spot 2"].mode == "Short"
    assert [sub.address for sub in said["Spot 3"].subs] == [7, 10]
