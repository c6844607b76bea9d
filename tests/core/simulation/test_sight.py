"""What is seen of a fixture that gets a frame."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core.model.profile import Function, Mode, Profile
from fence.core.simulation.sight import colour_of, doing, range_at, sight_of
from fence.library import shipped_profiles

MODES = [(p, m) for p in shipped_profiles() for m in p.modes if m.footprint and m.parts[0].channels]
HEAD = next(m for p, m in MODES if p.id == "teasel-lance" and m.name == "22 channel")
FLICKER = next(m for p, m in MODES if p.id == "bindweed-flicker")
PARCHMENT = next(m for p, m in MODES if p.id == "sedge-parchment" and m.name == "5 channel 16-bit")


@given(st.sampled_from(MODES), st.data())
def test_light_is_never_more_than_full(which: tuple[Profile, Mode], data: st.DataObject) -> None:
    """Whatever the levels, light and values lie between nothing and full, and darkness has no
    colour."""
    mode = which[1]
    levels = data.draw(st.dictionaries(st.integers(1, mode.footprint), st.integers(0, 255)))
    sight = sight_of(mode, levels)
    assert all(0 <= level <= 1 for _, level in sight.light)
    assert all(0 <= value <= 1 for _, value in sight.values)
    assert all(0 <= part <= 255 for part in colour_of(sight))
    if sight.intensity == 0:
        assert colour_of(sight) == (0, 0, 0)
        assert not sight.flashing


@given(st.sampled_from(MODES), st.integers(1, 400), st.data())
def test_a_start_address_only_shifts_the_frame(
    which: tuple[Profile, Mode], start: int, data: st.DataObject
) -> None:
    """A fixture at another address does the same with the frame moved along."""
    mode = which[1]
    levels = data.draw(
        st.lists(st.integers(0, 255), min_size=mode.footprint, max_size=mode.footprint)
    )
    here = sight_of(mode, levels)
    there = sight_of(mode, {start + offset: level for offset, level in enumerate(levels)}, start)
    assert here == there


@pytest.mark.parametrize(
    ("mode", "levels", "light", "flashing"),
    [
        (PARCHMENT, {1: 255, 2: 255, 5: 255}, 1.0, ""),
        (PARCHMENT, {1: 128, 2: 0, 5: 255}, 128 * 256 / 65535, ""),
        (PARCHMENT, {1: 255, 2: 255, 5: 5}, 0.0, ""),
        (PARCHMENT, {1: 255, 2: 255, 5: 100}, 1.0, "strobe, slow to fast"),
        (HEAD, {6: 255, 7: 255, 8: 255}, 1.0, ""),
        (FLICKER, {1: 255, 2: 3}, 1.0, ""),
    ],
)
def test_light_through_dimmer_and_shutter(
    mode: Mode, levels: dict[int, int], light: float, flashing: str
) -> None:
    """Dimmer in 16 bits, closed and open shutter, and strobe."""
    sight = sight_of(mode, levels)
    assert sight.intensity == pytest.approx(light)
    assert sight.flashing == flashing


def test_filters_take_colour_out_of_the_lamp() -> None:
    """Full cyan leaves no red; all three leave the beam dark in colour."""
    lamp = {6: 255, 7: 255, 8: 255}
    red, green, blue = colour_of(sight_of(HEAD, {**lamp, 9: 255}))
    assert (red, green > 200, blue > 200) == (0, True, True)
    assert colour_of(sight_of(HEAD, {**lamp, 9: 255, 10: 255, 11: 255})) == (0, 0, 0)


def test_words_of_a_level() -> None:
    """A level is what its range says; idle ranges and levels between ranges do nothing."""
    channel = next(c for c in HEAD.parts[0].channels if c.function is Function.PROGRAM)
    assert doing(channel, 5) == ""
    assert doing(channel, 50) == "programs 1 to 19"
    found = range_at(channel, 255)
    assert found is not None
    assert found.meaning == "sound to light"
