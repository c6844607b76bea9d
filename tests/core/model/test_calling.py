"""Fixtures as people call them, one by one and many at once."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core.model.calling import called
from fence.core.model.errors import EditError
from fence.demo import clean_show
from tests.rigs import rig

SHOW = clean_show()
BY_LABEL = {fixture.label: fixture.id for fixture in SHOW.fixtures}


def labels(words: str) -> list[str]:
    return [SHOW.fixture(fixture_id).label for fixture_id in called(SHOW, words)]


@pytest.mark.parametrize(
    ("words", "wanted"),
    [
        ("Fern 1, Fern 2", "Fern 1|Fern 2"),
        ("fern 1", "Fern 1"),
        ("11", "Fern 1"),
        ("Fern 1-3", "Fern 1|Fern 2|Fern 3"),
        ("Fern 3 thru 1", "Fern 3|Fern 2|Fern 1"),
        ("Fern 1 to Fern 3", "Fern 1|Fern 2|Fern 3"),
        ("11–13", "Fern 1|Fern 2|Fern 3"),
        ("11 thru 13; Palm 1", "Fern 1|Fern 2|Fern 3|Palm 1"),
        ("13..11\nFern 2", "Fern 3|Fern 2|Fern 1"),
        ("all at Palm House", "Palm 1|Palm 2|Palm 3|Palm 4"),
        ("palm house", "Palm 1|Palm 2|Palm 3|Palm 4"),
        ("Palm 4, all at Palm House", "Palm 4|Palm 1|Palm 2|Palm 3"),
        ("", ""),
    ],
)
def test_ways_to_call_fixtures(words: str, wanted: str) -> None:
    """Labels, numbers, ranges of both, and positions; each once, in the order of what was said."""
    assert labels(words) == list(filter(None, wanted.split("|")))


@given(st.integers(0, 99), st.integers(0, 99))
def test_a_range_of_numbers_is_what_lies_between(first: int, last: int) -> None:
    """The same as asking for each number by itself and leaving out those that nobody has."""
    held = {fixture.number: fixture.id for fixture in SHOW.fixtures}
    step = 1 if last >= first else -1
    wanted = [held[n] for n in range(first, last + step, step) if n in held]
    if wanted:
        assert called(SHOW, f"{first}-{last}") == wanted
    else:
        with pytest.raises(EditError, match="Accepted are labels and numbers"):
            called(SHOW, f"{first}-{last}")


def test_labels_with_a_dash_and_labels_that_come_twice() -> None:
    """A label comes before a range; two of one label are told by their numbers only."""
    show = rig(("1-2", 5, 1, 1), ("Bar", 5, 1, 11), ("bar", 5, 1, 21))
    assert called(show, "1-2") == [1]
    assert called(show, "2, 3") == [2, 3]
    with pytest.raises(EditError, match="Several fixtures"):
        called(show, "Bar")


@pytest.mark.parametrize("words", ["Fern 90", "Fern 1 to Palm 2", "all at Nowhere", "12 thru"])
def test_what_calls_nobody(words: str) -> None:
    """It is named, with what is accepted."""
    with pytest.raises(EditError, match="Accepted are labels and numbers"):
        called(SHOW, words)
