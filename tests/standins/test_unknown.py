"""The practice fixtures answer the probe, and the probe finds out what they are."""

from __future__ import annotations

import pytest

from fence.core.model.profile import Byte, Channel, Function
from fence.core.simulation.probe import Ask, probe
from fence.core.simulation.sight import colour_of
from fence.standins.unknown import Unknown, practice_fixtures


def played(unknown: Unknown) -> tuple[list[str], tuple[Channel, ...], int]:
    """The fixture answers every question; its answers, what was found, and after how many looks."""
    answers: list[str] = []
    while isinstance(ask := probe(answers), Ask):
        answers.append(unknown.answer(ask))
    return answers, ask.channels, ask.observations


def steps(channel: Channel) -> tuple[tuple[int, int], ...]:
    """Where the ranges of a channel begin and end."""
    return tuple((found.first, found.last) for found in channel.ranges)


@pytest.mark.parametrize("unknown", practice_fixtures(), ids=lambda unknown: unknown.mode.name)
def test_the_probe_finds_it_out(unknown: Unknown) -> None:
    """Footprint, functions, pairs and steps come out right; a channel that shows nothing is left in
    doubt."""
    _, found, looks = played(unknown)
    meant = [channel for part in unknown.mode.parts for channel in part.channels]
    assert len(found) == len(meant)
    # a control channel does nothing at full: nobody could have seen what it is
    hidden = {place for place, channel in enumerate(meant) if channel.function is Function.RESET}
    for place, (mine, theirs) in enumerate(zip(found, meant, strict=True)):
        if place in hidden:
            assert mine.function is Function.OTHER
        else:
            assert (mine.function, mine.cell, mine.byte) == (
                theirs.function,
                theirs.cell,
                theirs.byte,
            )
            assert len(steps(theirs)) < 2 or steps(mine) == steps(theirs)
    assert looks <= 14 * len(meant)


def test_looks_for_each_channel() -> None:
    """On average over all practice fixtures a channel takes at most 12 looks; the figure is
    printed."""
    plays = [(played(unknown)[2], unknown.mode.footprint) for unknown in practice_fixtures()]
    each = [looks / footprint for looks, footprint in plays]
    print(
        f"\nprobe: {sum(each) / len(each):.1f} looks for a channel on average, {len(each)} fixtures"
    )
    assert sum(each) / len(each) <= 12
    assert sum(1 for average in each if average <= 12) >= 6


def test_the_set_has_what_is_hard() -> None:
    """Among the practice fixtures are 16-bit movement and a program channel with steps."""
    channels = [
        c for unknown in practice_fixtures() for part in unknown.mode.parts for c in part.channels
    ]
    assert any(c.function is Function.PAN and c.byte is Byte.FINE for c in channels)
    assert any(c.function is Function.PROGRAM and len(c.ranges) > 2 for c in channels)


@pytest.mark.parametrize(
    ("levels", "colour", "running"),
    [
        ({1: 255}, (0, 0, 0), ""),
        ({1: 255, 2: 255, 6: 255}, (255, 24, 12), ""),
        ({1: 128, 2: 255, 6: 255}, (128, 12, 6), ""),
        ({1: 255, 2: 255, 6: 5}, (0, 0, 0), ""),
        ({2: 255, 7: 30}, (255, 24, 12), "programs 1 to 19"),
    ],
)
def test_what_a_lamp_shows(
    levels: dict[int, int], colour: tuple[int, int, int], running: str
) -> None:
    """Dimmer, colours, shutter and program together make what is seen: dark, red, half red, shut,
    its own show."""
    sight = practice_fixtures()[0].see(levels)
    assert colour_of(sight) == colour
    assert sight.running == running
