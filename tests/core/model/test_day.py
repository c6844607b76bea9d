"""Hours as people write them."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core.model.day import hours_of
from fence.core.model.errors import EditError

TENTHS = st.integers(1, 9_999).map(lambda tenths: tenths / 10)


@given(
    TENTHS,
    st.none() | TENTHS,
    st.sampled_from(["-", " – ", " to "]),
    st.sampled_from(["", " h", "h", " hours", " HRS"]),
    st.booleans(),
)
def test_a_range_counts_as_its_fewer_hours(
    one: float, other: float | None, between: str, unit: str, comma: bool
) -> None:
    """Point or comma, with a unit or without; of two the fewer, in whatever order."""
    words = f"{one:g}" + (f"{between}{other:g}" if other is not None else "") + unit
    wanted = one if other is None else min(one, other)
    assert hours_of(words.replace(".", ",") if comma else words) == wanted


@pytest.mark.parametrize("words", ["", "long", "6-", "0", "1001", "-6", "6 7", "6 m", "9" * 40])
def test_what_is_no_number_of_hours_is_told(words: str) -> None:
    """It says what is accepted."""
    with pytest.raises(EditError, match=r"type 6, 7\.5 or 6-7 h|Use more than 0"):
        hours_of(words)
