"""The first lesson: each step can be done, and is not done before; what a step says is what the rig
does."""

from __future__ import annotations

from itertools import product

import pytest

from fence.core.model.profile import Function
from fence.core.model.show import Show
from fence.core.simulation.lesson import STEPS, lesson, outcome, type_for
from fence.demo import clean_show

SHOWS = [None, Show("Empty"), clean_show()]


def up(step, *functions: Function, offset: int = 0) -> dict[int, int]:  # type: ignore[no-untyped-def]
    """Levels with these functions at full, of the fixture that begins so many slots later."""
    return {step.place(function) + offset: 255 for function in functions}


@pytest.mark.parametrize("show", SHOWS)
def test_every_step_can_be_done_and_is_not_done_before(show: Show | None) -> None:
    """By what its words ask for; with its levels at the beginning it is open, and a hint says what
    helps."""
    f = Function
    for number in range(1, STEPS + 1):
        step = lesson(number, show)
        begun = outcome(step, dict(step.begin or {}))
        assert not begun.reached
        assert begun.hint
        offset = step.width if number == 4 else 0
        wanted = up(step, f.DIMMER, f.RED, *([f.GREEN] if number == 2 else []), offset=offset)
        asked = {
            "universe": 2 if number == 6 else 1,
            "address": step.width + 1 if number == 4 else 1,
        }
        assert outcome(step, wanted, **asked).reached, number
        assert not outcome(step, wanted, **asked).hint


def test_the_same_address_does_the_same() -> None:
    """At one address both do the same whatever is sent; apart they never share a slot."""
    step = lesson(3)
    for levels in product((0, 90, 255), repeat=step.width):
        seen = outcome(step, dict(enumerate(levels, 1))).seen
        assert seen[0] == seen[1]
    apart = lesson(4)
    for address in (apart.width + 1, apart.width + 5, 400, 600):
        found = outcome(apart, up(apart, Function.DIMMER, Function.RED), address=address)
        assert found.seen[0].lit
        assert not found.seen[1].lit
        assert not found.reached


def test_a_dimmer_at_zero_is_dark_whatever_the_colours() -> None:
    """Step 5: no mix of colours lights it, its dimmer does."""
    step = lesson(5)
    dimmer = step.place(Function.DIMMER)
    for levels in product((0, 255), repeat=step.width):
        found = dict(enumerate(levels, 1))
        assert outcome(step, {**found, dimmer: 0}).seen[0].lit is False
    assert outcome(step, {**dict(step.begin or {}), dimmer: 255}).reached


def test_the_own_rig_is_learnt_on() -> None:
    """A type of the show with a dimmer and three colours, under the names of the show; else a lamp
    of four channels."""
    profile, mode, labels = type_for(clean_show())
    known = {fixture.label: fixture for fixture in clean_show().fixtures}
    if profile.id != "lesson-lamp":
        assert known[labels[0]].profile == profile.id
    assert {Function.DIMMER, Function.RED, Function.GREEN, Function.BLUE} <= {
        c.function for c in mode.parts[0].channels
    }
    assert type_for(Show("Empty"))[2] == ("Lamp 1", "Lamp 2")
    assert lesson(99).number == STEPS
    assert lesson(-1).number == 1
