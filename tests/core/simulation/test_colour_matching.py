"""Colours come as near as the emitters let them: against a naive search over a grid of levels."""

from __future__ import annotations

from itertools import product
from math import hypot

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core.model.errors import EditError
from fence.core.model.profile import Byte, Channel, Function, Mode, Part, Range
from fence.core.simulation.colour_matching import (
    MODEL,
    NEAR,
    SAME,
    Point,
    check_trim,
    levels_with,
    match,
    of_kelvin,
    of_rgb,
    of_xy,
)
from fence.core.simulation.practice import seen_of
from fence.library import shipped_profiles
from tests.examples import examples

STEPS = (0, 64, 128, 192, 255)
TARGETS = st.one_of(
    st.builds(of_kelvin, st.floats(1700, 20_000)),
    st.builds(of_rgb, st.integers(0, 255), st.integers(0, 255), st.integers(1, 255)),
)


def mode_of(*functions: Function) -> Mode:
    """A mode with a dimmer and these channels."""
    channels = (Channel(Function.DIMMER), *(Channel(function) for function in functions))
    return Mode("m", (Part(len(channels), channels),))


def naive(functions: list[Function], levels: tuple[int, ...]) -> Point | None:
    """Where a mix lies, reckoned anew from x, y and brightness of each emitter."""
    big_x = big_y = big_z = 0.0
    for function, level in zip(functions, levels, strict=True):
        x, y, bright = MODEL[function]
        amount = bright * level / 255
        big_x, big_y, big_z = (
            big_x + amount * x / y,
            big_y + amount,
            big_z + amount * (1 - x - y) / y,
        )
    total = big_x + 15 * big_y + 3 * big_z
    return (4 * big_x / total, 9 * big_y / total) if total else None


@examples(150)
@given(st.lists(st.sampled_from(list(MODEL)), min_size=1, max_size=5, unique=True), TARGETS)
def test_never_worse_than_a_search_over_a_grid(functions: list[Function], target: Point) -> None:
    """Whatever emitters and colour: no mix of five levels each comes nearer by what could be seen,
    what is said of it is so, and the strongest emitter is at full."""
    found = match(mode_of(*functions), target)
    assert found is not None
    mine = naive(functions, tuple(found.levels[place + 1] for place in range(len(functions))))
    assert mine is not None
    off = hypot(mine[0] - target[0], mine[1] - target[1])
    assert off == pytest.approx(found.off, abs=1e-9)
    best = min(
        hypot(point[0] - target[0], point[1] - target[1])
        for levels in product(STEPS, repeat=len(functions))
        if (point := naive(functions, levels)) is not None
    )
    # a darker mix of whole levels may hit a colour by luck that rounding cannot
    assert found.off <= best + SAME / 4
    assert all(0 <= level <= 255 for level in found.levels.values())
    assert max(found.levels.values()) == 255


def test_unlike_fixtures_meet() -> None:
    """What three emitters can reach, four and five reach as well, as good as the same; the more,
    the brighter."""
    f = Function
    sets = (
        [f.RED, f.GREEN, f.BLUE],
        [f.RED, f.GREEN, f.BLUE, f.WHITE],
        [f.RED, f.GREEN, f.BLUE, f.AMBER, f.LIME],
    )
    for target in (of_kelvin(3200), of_kelvin(5600), of_rgb(255, 120, 60), of_rgb(120, 60, 255)):
        found = [match(mode_of(*functions), target) for functions in sets]
        assert all(one is not None and one.off <= SAME for one in found)
        assert found[1] is not None
        assert found[0] is not None
        assert found[1].bright >= found[0].bright - 1e-6


def test_filters_and_tunable_white() -> None:
    """Filters come near to a warm white and to a colour; a tunable white takes the level of its own
    range."""
    filters = mode_of(Function.CYAN, Function.MAGENTA, Function.YELLOW)
    for target in (of_kelvin(3200), of_rgb(255, 80, 40)):
        found = match(filters, target)
        assert found is not None
        assert found.off <= NEAR
        assert min(found.levels.values()) == 0
    tunable = Mode(
        "m",
        (
            Part(
                2,
                (
                    Channel(Function.DIMMER),
                    Channel(Function.CCT, ranges=(Range(0, 255, "warm to cold", 2700, 6500, "K"),)),
                ),
            ),
        ),
    )
    found = match(tunable, of_kelvin(3200))
    assert found is not None
    assert found.levels[1] == pytest.approx(255 * 500 / 3800, abs=1)
    lamp = match(mode_of(), of_rgb(0, 0, 255))
    assert lamp is not None
    assert lamp.words == "visibly off"
    assert match(Mode("m", (Part(1, (Channel(Function.OUTPUT),)),)), of_kelvin(3200)) is None


@pytest.mark.parametrize("profile", shipped_profiles(), ids=lambda one: one.id)
def test_every_shipped_type_is_lit_by_its_match(profile) -> None:  # type: ignore[no-untyped-def]
    """Sent with its match, every type that has light is lit, and the levels stand at its colours
    only."""
    for mode in profile.modes:
        found = match(mode, of_kelvin(4000))
        if found is None:
            continue
        seen = seen_of(mode, levels_with(mode, found))
        channels = [channel for part in mode.parts for channel in part.channels]
        assert seen.lit, (profile.id, mode.name)
        assert all(
            channels[place].byte is not Byte.FINE or channels[place].function in MODEL
            for place in found.levels
        )


@pytest.mark.parametrize(
    ("made", "words"),
    [
        (lambda: of_kelvin(100), "Use "),
        (lambda: of_kelvin(50_000), "Use "),
        (lambda: of_rgb(0, 0, 0), "Black"),
        (lambda: of_xy(0.9, 0.9), "not a colour"),
        (lambda: of_xy(0.3, 0), "not a colour"),
    ],
)
def test_what_is_no_colour(made, words: str) -> None:  # type: ignore[no-untyped-def]
    """It says what is accepted."""
    with pytest.raises(EditError, match=words):
        made()


def test_a_correction_by_eye_moves_the_levels() -> None:
    """A green that is seen twice as bright is sent at less of it, and the mix is where it is wanted
    by that model."""
    functions = [Function.RED, Function.GREEN, Function.BLUE]
    target = of_kelvin(4000)
    plain, seen = (
        match(mode_of(*functions), target),
        match(mode_of(*functions), target, {Function.GREEN: 2.0}),
    )
    assert plain is not None
    assert seen is not None
    assert seen.levels[2] * 2 == pytest.approx(
        plain.levels[2] * seen.levels[1] / plain.levels[1], abs=3
    )
    assert seen.off <= SAME
    with pytest.raises(EditError, match="Use "):
        check_trim(0)
