"""Address switches, both ways."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core.words.errors import SetterError
from fence.core.words.profile import Setter, SetterKind
from fence.core.words.setter import address_of, as_seen, misreadings, switches_on


@st.composite
def setters(draw: st.DrawFn) -> Setter:
    count = draw(st.integers(1, 12))
    return Setter(
        SetterKind.SWITCHES,
        switches=count,
        zero_based=draw(st.booleans()),
        fixed_on=draw(st.sampled_from([(), (count + 1,)])),
        fixed_off=draw(st.sampled_from([(), (count + 2,)])),
        on_is_up=draw(st.booleans()),
        first_is_left=draw(st.booleans()),
    )


@given(setters(), st.integers(1, 512))
def test_pattern_equals_a_naive_reading(setter: Setter, address: int) -> None:
    """The pattern is the binary number read from its end, and it reads back to the address."""
    value = address - 1 if setter.zero_based else address
    written = f"{value:b}"[::-1]
    if len(written) > setter.switches:
        with pytest.raises(SetterError, match="cannot hold"):
            switches_on(address, setter)
        return
    on = switches_on(address, setter)
    assert [n for n in on if n <= setter.switches] == [n for n, bit in enumerate(written, 1) if bit == "1"]
    assert set(setter.fixed_on) <= set(on)
    assert address_of(on, setter) == address


@given(setters(), st.integers(1, 512))
def test_turning_reverses_order_and_direction(setter: Setter, address: int) -> None:
    """A fixture hanging upside down shows the row from the other end with every lever the other way."""
    lowest, highest = setter.settable
    if not lowest <= address <= highest:
        return
    upright, turned = as_seen(address, setter), as_seen(address, setter, turned=True)
    assert [s.number for s in turned] == [s.number for s in upright][::-1]
    assert [s.up for s in turned] == [not s.up for s in upright][::-1]
    assert [s.on for s in turned] == [s.on for s in upright][::-1]


def test_a_pattern_off_by_one_doubles_or_halves() -> None:
    """Reading one switch too high doubles the address, too low halves it."""
    named = {m.mistake: m.address for m in misreadings(36)}
    assert named["one switch too high"] == 72
    assert named["one switch too low"] == 18
    assert named["read from the wrong end"] == 72  # 000100100 from its end is 001001000


def test_switches_that_are_not_there() -> None:
    """A switch beyond the row and an empty row are refused."""
    with pytest.raises(SetterError, match="no switch 11"):
        address_of([11])
    with pytest.raises(SetterError, match="no address"):
        address_of([])
    assert address_of([], Setter(SetterKind.SWITCHES, zero_based=True)) == 1
