"""What a practice rig shows is what would be seen: parts hear what reaches them, and what can be
lit is brought up."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core import edits
from fence.core.charts.vocabulary import EMITTERS
from fence.core.checks import check
from fence.core.edits import with_places
from fence.core.model.errors import EditError
from fence.core.model.fixture import Fixture
from fence.core.model.line import Line, Stop
from fence.core.model.patch import Patch
from fence.core.model.profile import Channel, Function, Mode, Part, Profile
from fence.core.model.show import Show
from fence.core.simulation.bringing import Look, called, expected, levels_for, looks_of
from fence.core.simulation.faults import read_fault
from fence.core.simulation.practice import PracticeRig

RGB = (Channel(Function.RED), Channel(Function.GREEN), Channel(Function.BLUE))
RED, GREEN, NONE = bytes((255, 0, 0)), bytes((0, 255, 0)), bytes(3)


@given(st.sets(st.sampled_from(sorted(EMITTERS)), min_size=1), st.booleans(), st.booleans())
def test_whatever_has_light_is_lit(emitters: set[Function], dimmer: bool, shutter: bool) -> None:
    """Any emitters, with or without a dimmer and a shutter: brought up it gives light in every
    look, and what is expected of it is not darkness."""
    functions = [*sorted(emitters), *[Function.DIMMER] * dimmer, *[Function.SHUTTER] * shutter]
    mode = Mode("m", (Part(len(functions), tuple(map(Channel, functions))),))
    assert looks_of(mode)[0] is Look.OPEN
    for look in looks_of(mode):
        assert any(levels_for(mode, look))
        assert (expected(mode, look).state, expected(mode, look).lit) == ("lit", True), (
            look,
            functions,
        )
    white = emitters & {Function.RED, Function.GREEN, Function.BLUE, Function.WHITE}
    assert (called(mode, Look.OPEN) == "open white") == bool(white)
    raised = {
        function for function, level in zip(functions, levels_for(mode), strict=True) if level
    } & EMITTERS
    assert Function.UV not in raised or emitters == {Function.UV}


def in_two(no_signal: str = "") -> Show:
    """A fixture in two parts on two universes: a dimmer and three colours."""
    mode = Mode("m", (Part(1, (Channel(Function.DIMMER),)), Part(3, RGB)))
    split = Profile("p", "Trowel", "Split", (mode,), no_signal=no_signal)
    return with_places(
        Show(
            "S",
            (Fixture(1, "A", "p", "m", 1, patch=(Patch(1, 1), Patch(2, 1))),),
            (split,),
            next_id=2,
        )
    )


@given(
    st.binary(min_size=8, max_size=8),
    st.binary(min_size=8, max_size=8),
    st.integers(1, 5),
    st.integers(1, 5),
)
def test_each_part_hears_its_own_universe(
    one: bytes, other: bytes, first: int, second: int
) -> None:
    """Without lines, and on a line for each: the levels of each part are those of its own universe
    at its start."""
    show = in_two()
    fixture = replace(show.fixtures[0], patch=(Patch(1, first), Patch(2, second)))
    show = replace(show, fixtures=(fixture,))
    wanted = one[first - 1 : first] + other[second - 1 : second + 2]
    frames = {1: one, 2: other, 3: bytes(range(8))}
    assert PracticeRig(show).seen(frames)[1].levels == wanted
    hung = edits.lines_by_universe(show)
    assert [[stop.fixture for stop in line.stops if stop.fixture] for line in hung.lines] == [
        [1],
        [1],
    ]
    assert not list(check(hung))
    assert PracticeRig(hung).seen(frames)[1].levels == wanted


def test_a_part_whose_line_is_missing_is_told() -> None:
    """On the line of one universe only the other one is asked for; two lines of one universe are
    too many."""
    show = edits.add_line(
        edits.add_line(edits.add_line(in_two(), "One", 1), "Two", 2), "One again", 1
    )
    half = edits.terminate(edits.chain(show, 1, [1]), 1)
    assert [(f.rule, f.universe) for f in check(half)] == [("not-on-line", 2)]
    whole = edits.terminate(edits.chain(half, 2, [1]), 2)
    assert not list(check(whole))
    with pytest.raises(EditError, match="already"):
        edits.chain(whole, 3, [1])
    twice = replace(
        whole, lines=(*whole.lines[:2], replace(whole.lines[2], stops=(Stop(1, fixture=1),)))
    )
    assert "twice-on-line" in {finding.rule for finding in check(twice)}


def par(no_signal: str = "holds the last") -> Profile:
    return Profile("q", "Trowel", "Par", (Mode("m", (Part(3, RGB),)),), no_signal=no_signal)


def test_who_holds_the_last_holds_what_it_heard() -> None:
    """On a line that carries another universe by mistake it is that one's last frame, not the
    planned one's; also where a plug came out since."""
    line = Line(1, "L", 2, stops=(Stop(1, fixture=1),))
    one = Fixture(1, "A", "q", "m", 1, patch=(Patch(1, 1),))
    show = with_places(Show("S", (one,), (par(),), next_id=2, lines=(line,)))
    before = {1: RED, 2: GREEN}
    for faults in ((), (read_fault(show, "plug-out=A"),)):
        assert PracticeRig(show, faults).seen({}, before)[1].levels == GREEN
    assert PracticeRig(show, (read_fault(show, "deaf=A"),)).seen({}, before)[1].levels == b""
    assert PracticeRig(replace(show, profiles=(par("dark"),))).seen({}, before)[1].levels == b""


def test_a_part_without_signal_holds_or_stands_at_zero() -> None:
    """One of two universes stops: its part holds its last frame where the chart says so; the other
    goes on."""
    lit = {1: bytes([255]), 2: GREEN}
    for words, levels in (("holds the last", bytes([255]) + GREEN), ("dark", bytes([255]) + NONE)):
        assert PracticeRig(in_two(words)).seen({1: bytes([255])}, lit)[1].levels == levels
    assert PracticeRig(in_two("dark")).seen({}, lit)[1].levels == b""
