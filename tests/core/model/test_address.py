"""Addresses as people type and read them."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core.model.address import (
    Address,
    format_slots,
    from_absolute,
    parse_address,
    parse_slots,
)
from fence.core.model.errors import AddressError

addresses = st.builds(Address, st.integers(1, 63_999), st.integers(1, 512))


@pytest.mark.parametrize(
    ("typed", "meant"),
    [
        ("1/214", Address(1, 214)),
        ("1.214", Address(1, 214)),
        ("1 214", Address(1, 214)),
        ("u1 214", Address(1, 214)),
        ("U12/7", Address(12, 7)),
        ("  3 / 9 ", Address(3, 9)),
        ("214", Address(7, 214)),
        ("512", Address(7, 512)),
        ("513", Address(2, 1)),
        ("1025", Address(3, 1)),
    ],
)
def test_every_accepted_way_of_typing(typed: str, meant: Address) -> None:
    """Each way of writing an address gives the same place; a bare slot is in the current
    universe."""
    assert parse_address(typed, current_universe=7) == meant


@pytest.mark.parametrize(
    "typed", ["", "x", "1/513", "1/0", "0/1", "64000/1", "-3", "1/2/3", "٣", "1/٢", "9" * 30, "0"]
)
def test_refused_with_what_is_accepted(typed: str) -> None:
    """What cannot be read is refused in a sentence, never with a stack trace."""
    with pytest.raises(AddressError, match=r"Type a slot|There is no"):
        parse_address(typed)


@given(addresses)
def test_written_addresses_read_back(address: Address) -> None:
    """What Fence displays, it also reads; absolute numbers go both ways."""
    assert parse_address(str(address)) == address
    assert from_absolute(address.absolute) == address


@given(st.sets(st.integers(1, 512)))
def test_slot_lists_round_trip(slots: set[int]) -> None:
    """Reserved slots read back as they are written."""
    assert parse_slots(format_slots(tuple(slots))) == tuple(sorted(slots))


@pytest.mark.parametrize("typed", ["0", "513", "9-3", "a", "1-2-3"])
def test_bad_slot_lists(typed: str) -> None:
    """A slot list with a mistake is refused."""
    with pytest.raises(AddressError):
        parse_slots(typed)
