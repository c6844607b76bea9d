"""Addresses and masks as people type them."""

from __future__ import annotations

from ipaddress import IPv4Network

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core.model.box import as_host, as_prefix
from fence.core.model.errors import EditError


@pytest.mark.parametrize(
    ("words", "wanted"),
    [
        ("10.20.4.6", ("10.20.4.6", None)),
        ("10.20.4.6/24", ("10.20.4.6", 24)),
        (" 10.20.4.6 / 16 ", ("10.20.4.6", 16)),
        ("10.20.4.6 255.255.255.0", ("10.20.4.6", 24)),
        ("10.20.4.6/255.0.0.0", ("10.20.4.6", 8)),
    ],
)
def test_an_address_with_its_mask(words: str, wanted: tuple[str, int | None]) -> None:
    """Behind a stroke or a blank, as bits or as four numbers."""
    assert as_host(words) == wanted


@given(st.integers(1, 32))
def test_masks_are_those_of_the_standard_library(bits: int) -> None:
    """Every mask of four numbers is as many bits as the library says."""
    assert as_prefix(str(IPv4Network(f"0.0.0.0/{bits}").netmask)) == bits
    assert as_prefix(f"/{bits}") == as_prefix(str(bits)) == bits


@pytest.mark.parametrize("words", ["10.20.4", "10.20.4.6 255.0.255.0", "node", "10.20.4.6/x", ""])
def test_what_is_no_address(words: str) -> None:
    """It is said what is accepted."""
    with pytest.raises(EditError, match="Use "):
        as_host(words)
