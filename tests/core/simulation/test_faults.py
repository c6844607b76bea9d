"""Faults of every kind on random rigs: the practice rig shows what a second simulation shows; each
can be typed."""

from __future__ import annotations

from random import Random

import pytest

from fence.core.model.errors import EditError
from fence.core.model.show import Show
from fence.core.simulation.bringing import levels_for
from fence.core.simulation.faults import PUT_ON, Fault, Trouble, read_fault
from fence.core.simulation.practice import PracticeRig, Seen
from fence.core.troubleshooting.causes import WEIGHTS
from fence.core.troubleshooting.told import KINDS as KIND_WORDS
from fence.core.troubleshooting.told import REMEDIES, WORDS
from fence.demo import clean_show
from tests.core.troubleshooting.hiding import KINDS, hidden
from tests.core.troubleshooting.rigs import random_rig
from tests.core.troubleshooting.second import Field


def all_up(show: Show) -> dict[int, bytes]:
    """All fixtures in open white where the plan has them."""
    frames: dict[int, bytearray] = {}
    for fixture in show.fixtures:
        mode, entry = show.mode_of(fixture), fixture.patch[0]
        assert mode is not None
        frame = frames.setdefault(entry.universe or 0, bytearray(512))
        levels = levels_for(mode)
        start = (entry.slot or 1) - 1
        frame[start : start + len(levels)] = levels
    return {universe: bytes(frame[:512]) for universe, frame in frames.items()}


def word(seen: Seen) -> str:
    """What somebody says of a fixture."""
    if seen.state.startswith("own program"):
        return "own-program"
    if not seen.lit:
        return "dark"
    return "flicker" if seen.flickers else "lit"


@pytest.mark.parametrize("kind", KINDS)
def test_a_second_simulation_shows_the_same(kind: str) -> None:
    """Of every fixture, whatever is wrong; one by one as all at once."""
    chance = Random(kind)
    for _ in range(4):
        show = random_rig(chance)
        one = hidden(show, kind, chance)
        if one is None:
            continue
        fault = Fault(
            Trouble(one.trouble), one.fixture, one.line, one.box, one.port, one.value, one.stop
        )
        frames = all_up(show)
        rig, field = PracticeRig(show, (fault,)), Field(show, [one])
        ways = {
            stop.fixture: [(line, stop)]
            for line in show.lines
            for stop in line.stops
            if stop.fixture
        }
        listed = {universe: list(frame) for universe, frame in frames.items()}
        seen = rig.seen(frames)
        for fixture in show.fixtures:
            expected, _ = field.shows(fixture.id, listed)
            assert word(seen[fixture.id]) == expected, (one, fixture)
            alone = rig.seen_at(fixture, frames, ways.get(fixture.id, ()))
            assert word(alone) == expected, (one, fixture)


def test_every_trouble_has_its_words() -> None:
    """What it is, what to do, what kind it is, how often it is met."""
    assert set(WORDS) == set(REMEDIES) == set(KIND_WORDS) == set(Trouble)
    assert set(WEIGHTS) == set(PUT_ON)


@pytest.mark.parametrize(
    ("typed", "fault"),
    [
        ("splitter-off=Split 1", Fault(Trouble.SPLITTER_OFF, line="Line A", stop=5)),
        ("output-dead=Split 1:2", Fault(Trouble.OUTPUT_DEAD, line="Line A", stop=5, value="2")),
        ("not-sent=2", Fault(Trouble.NOT_SENT, value="2")),
        ("second-source=1", Fault(Trouble.SECOND_SOURCE, value="1")),
        ("port-off=palm dock:4", Fault(Trouble.PORT_OFF, box="palm dock", port=4)),
        ("other-network=palm dock", Fault(Trouble.OTHER_NETWORK, box="palm dock")),
        ("second-terminator=Line A", Fault(Trouble.SECOND_TERMINATOR, line="Line A")),
    ],
)
def test_faults_are_typed(typed: str, fault: Fault) -> None:
    """Each by its name and its place."""
    assert read_fault(clean_show(), typed) == fault


@pytest.mark.parametrize(
    ("typed", "told"),
    [
        ("nothing", "“nothing” is not a fault"),
        ("splitter-off=Moon", "no splitter “Moon”. Use one of Split 1"),
        ("output-dead=Split 1:x", "“x” is not an output"),
        ("not-sent=0", "“0” is not a universe"),
        ("not-sent=far", "“far” is not a universe"),
    ],
)
def test_what_is_no_fault(typed: str, told: str) -> None:
    """It says what is accepted."""
    with pytest.raises(EditError, match=told):
        read_fault(clean_show(), typed)
