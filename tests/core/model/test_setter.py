"""Address switches, both ways."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core.model.errors import SetterError
from fence.core.model.profile import Setter, SetterKind
from fence.core.model.setter import address_of, as_seen, misreadings, switches_on


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
    assert [n for n in on if n <= setter.switches] == [
        n for n, bit in enumerate(written, 1) if bit == "1"
    ]
    assert set(setter.fixed_on) <= set(on)
    assert address_of(on, setter) == address


@given(setters(), st.integers(1, 512))
def test_turning_reverses_order_and_direction(setter: Setter, address: int) -> None:
    """A fixture hanging upside down shows the row from the other end with every lever the other
    way."""
    lowest, highest = setter.settable
    if not lowest <= address <= highest:
        return
    upright, turned = as_seen(address, setter), as_seen(address, setter, turned=True)
    assert [s.number for s in turned] == [s.number for s in upright][::-1]
    assert [s.up for s in turned] == [not s.up for s in upright][::-1]
    assert [s.on for s in turned] == [s.on for s in upright][::-1]


@given(setters(), st.integers(1, 512))
def test_the_row_equals_a_drawn_one(setter: Setter, address: int) -> None:
    """Upright, switch 1 stands where the chart says, each lever up where it is on if ON is up, with
    its weight."""
    lowest, highest = setter.settable
    if not lowest <= address <= highest:
        return
    value = address - setter.zero_based
    drawn = [(n, bool(value >> (n - 1) & 1), 1 << (n - 1)) for n in range(1, setter.switches + 1)]
    drawn += [(n, True, 0) for n in setter.fixed_on] + [(n, False, 0) for n in setter.fixed_off]
    if not setter.first_is_left:
        drawn.reverse()
    assert [(s.number, s.on, s.weight) for s in as_seen(address, setter)] == drawn
    assert [s.up for s in as_seen(address, setter)] == [on == setter.on_is_up for _, on, _ in drawn]


@given(setters(), st.integers(1, 512))
def test_misreadings_equal_a_reading_of_the_written_row(setter: Setter, address: int) -> None:
    """Each mistake is the row as a string of ones and noughts, turned, flipped or shifted, and read
    again."""
    lowest, highest = setter.settable
    if not lowest <= address <= highest:
        return
    row = f"{address - setter.zero_based:0{setter.switches}b}"
    flipped = row.translate(str.maketrans("01", "10"))
    rows = {
        "read from the wrong end": row[::-1],
        "on and off taken for each other": flipped,
        "read upside down": flipped[::-1],
        "one switch too high": row[1:] + "0",
        "one switch too low": "0" + row[:-1],
    }
    said = {mistake: int(text, 2) + setter.zero_based for mistake, text in rows.items()}
    wanted = {mistake: a if 1 <= a <= 512 else None for mistake, a in said.items() if a != address}
    assert {m.mistake: m.address for m in misreadings(address, setter)} == wanted


def test_a_pattern_off_by_one_doubles_or_halves() -> None:
    """Reading one switch too high doubles the address, too low halves it."""
    named = {m.mistake: m.address for m in misreadings(36)}
    assert named["one switch too high"] == 72
    assert named["one switch too low"] == 18
    assert named["read from the wrong end"] == 72  # 000100100 from its end is 001001000


def test_switches_that_are_not_there() -> None:
    """A switch beyond the row and an empty row are refused."""
    for number in (0, 10, 11):
        with pytest.raises(SetterError, match=f"no switch {number}"):
            address_of([number])
    with pytest.raises(SetterError, match="not an address"):
        address_of([])
    assert address_of([], Setter(SetterKind.SWITCHES, zero_based=True)) == 1
